import type { Frame, FrameKind } from './model';

const STATES = new Map<string, FrameKind>([
  ['(root)', 'root'],
  ['(idle)', 'idle'],
  ['(program)', 'program'],
  ['(garbage collector)', 'gc']
]);

const PACKAGE =
  /(?:^|[/\\])node_modules[/\\](?:\.pnpm[/\\][^/\\]+[/\\]node_modules[/\\])?((?:@[^/\\]+[/\\])?[^/\\]+)/g;

/** Tells application frames from dependencies, the runtime and native code by the URL V8 recorded. */
export function classify(name: string, file: string): Pick<Frame, 'kind' | 'package'> {
  const state = file === '' ? STATES.get(name) : undefined;
  if (state) return { kind: state, package: '' };
  if (file === '') return { kind: 'native', package: '' };
  if (/^(?:node:|internal\/|native )/.test(file)) return { kind: 'runtime', package: '' };
  if (/^wasm:/.test(file)) return { kind: 'native', package: '' };
  let dependency = '';
  for (const [, found] of file.matchAll(PACKAGE)) dependency = found.replace('\\', '/');
  return dependency ? { kind: 'dependency', package: dependency } : { kind: 'app', package: '' };
}
