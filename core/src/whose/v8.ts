import type { FrameKind } from '../profile/model';
import { APP, dependency, NATIVE, RUNTIME, type Whose } from './whose';

/** States of the engine, which stand where functions do. */
const STATES = new Map<string, FrameKind>([
  ['(root)', 'root'],
  ['(idle)', 'idle'],
  ['(program)', 'program'],
  ['(garbage collector)', 'gc']
]);

const PACKAGE =
  /(?:^|[/\\])node_modules[/\\](?:\.pnpm[/\\][^/\\]+[/\\]node_modules[/\\])?((?:@[^/\\]+[/\\])?[^/\\]+)/g;

/** What a frame without a file is where its name is a state of the engine; null for a function. */
export function stateOf(name: string): Whose | null {
  const kind = STATES.get(name);
  return kind ? { kind, package: '' } : null;
}

/**
 * Tells application frames from dependencies, the runtime and native code by the URL V8 recorded.
 * @param line 1-based, 0 where none was recorded. A script may have lines and no URL (evaluated text, inline scripts of a
 *   page); native code has neither.
 */
export function whoseV8(name: string, file: string, line = 0): Whose {
  const state = file === '' ? stateOf(name) : null;
  if (state) return state;
  if (file === '') return line > 0 ? APP : NATIVE;
  if (/^(?:node:|internal\/|native |chrome:\/\/|devtools:\/\/)/.test(file)) return RUNTIME;
  if (/^wasm:/.test(file)) return NATIVE;
  let found = '';
  for (const [, name] of file.matchAll(PACKAGE)) found = name.replace('\\', '/');
  return found ? dependency(found) : APP;
}
