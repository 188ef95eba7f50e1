import type { Frame, FrameKind } from './model';

const STATES = new Map<string, FrameKind>([
  ['(root)', 'root'],
  ['(idle)', 'idle'],
  ['(program)', 'program'],
  ['(garbage collector)', 'gc']
]);

const PACKAGE =
  /(?:^|[/\\])node_modules[/\\](?:\.pnpm[/\\][^/\\]+[/\\]node_modules[/\\])?((?:@[^/\\]+[/\\])?[^/\\]+)/g;

/**
 * Tells application frames from dependencies, the runtime and native code by the URL V8 recorded.
 * @param line 1-based, 0 where none was recorded. A script may have lines and no URL (evaluated text, inline scripts of a
 *   page); native code has neither.
 */
export function classify(name: string, file: string, line = 0): Pick<Frame, 'kind' | 'package'> {
  const state = file === '' ? STATES.get(name) : undefined;
  if (state) return { kind: state, package: '' };
  if (file === '') return { kind: line > 0 ? 'app' : 'native', package: '' };
  if (/^(?:node:|internal\/|native )/.test(file)) return { kind: 'runtime', package: '' };
  if (/^wasm:/.test(file)) return { kind: 'native', package: '' };
  let dependency = '';
  for (const [, found] of file.matchAll(PACKAGE)) dependency = found.replace('\\', '/');
  return dependency ? { kind: 'dependency', package: dependency } : { kind: 'app', package: '' };
}
