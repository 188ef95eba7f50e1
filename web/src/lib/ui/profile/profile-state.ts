import type { Frame, FrameKind } from '@tromix/core/profile/model';
import { FRAME_KINDS } from '@tromix/core/profile/model';
import type { Act, Shaping, Target } from '@tromix/core/profile/shape';
import { SHOWS, type Show } from './shows';

/** What is shown of a profile and what was done to it, as the address holds it: each step can be gone back by the browser. */
export interface ViewState {
  show: Show;
  /** Nanoseconds from the start; null for all. */
  cut: { from: number; to: number } | null;
  thread: number;
  idle: boolean;
  foldRecursion: boolean;
  /** Acts in the order they were done, by name. */
  acts: NamedAct[];
  /** Name of the function whose calls are merged; '' for none. */
  root: string;
  /** Name of the function that callers or neighbours are asked of; '' for none. */
  of: string;
  file: string;
  /** Endpoint whose requests' time alone counts; '' for all time. */
  during: string;
}

/** An act by the name of its target, which stands in links: numbers of frames belong to one reading of one file. */
export interface NamedAct {
  act: Act['act'];
  by: Target['by'];
  name: string;
}

const ACTS: readonly string[] = ['hide', 'fold', 'only'];

/** The same function has the same name whenever the file is read. */
export const nameOf = ({ name, file, line, column }: Frame): string =>
  file ? `${name} ${file}:${line}:${column}` : name;

export function readState(query: URLSearchParams): ViewState {
  const from = Number(query.get('cutFrom') ?? NaN);
  const to = Number(query.get('cutTo') ?? NaN);
  const show = SHOWS.find((one) => one === query.get('show')) ?? 'root';
  return {
    show,
    cut: Number.isFinite(from) && Number.isFinite(to) && to > from ? { from, to } : null,
    thread: /^\d+$/.test(query.get('thread') ?? '') ? Number(query.get('thread')) : -1,
    idle: query.get('idle') === '1',
    foldRecursion: query.get('recursion') === 'folded',
    acts: query.getAll('act').flatMap((text) => {
      const [act, by, ...rest] = text.split('~');
      const name = rest.join('~');
      const known = ACTS.includes(act) && ['frame', 'package', 'kind'].includes(by) && name !== '';
      return known ? [{ act: act as Act['act'], by: by as Target['by'], name }] : [];
    }),
    root: query.get('root') ?? '',
    of: query.get('of') ?? '',
    file: query.get('file') ?? '',
    during: query.get('during') ?? ''
  };
}

/** The query of an address with a state written into it; what else stands there stays. */
export function writeState(query: URLSearchParams, state: ViewState): URLSearchParams {
  const next = new URLSearchParams(query);
  const set = (name: string, value: string): void => {
    if (value === '') next.delete(name);
    else next.set(name, value);
  };
  set('show', state.show === 'root' ? '' : state.show);
  set('cutFrom', state.cut ? String(Math.round(state.cut.from)) : '');
  set('cutTo', state.cut ? String(Math.round(state.cut.to)) : '');
  set('thread', state.thread < 0 ? '' : String(state.thread));
  set('idle', state.idle ? '1' : '');
  set('recursion', state.foldRecursion ? 'folded' : '');
  set('root', state.root);
  set('of', state.of);
  set('file', state.file);
  set('during', state.during);
  next.delete('act');
  for (const { act, by, name } of state.acts) next.append('act', `${act}~${by}~${name}`);
  return next;
}

/** Frames by name. */
export function frameIndex(frames: readonly Frame[]): Map<string, number> {
  return new Map(frames.map((frame, i) => [nameOf(frame), i]));
}

/** The shaping a state asks for. Acts about what this profile does not have do nothing. */
export function shapingOf(state: ViewState, index: ReadonlyMap<string, number>): Shaping {
  return {
    acts: state.acts.flatMap(({ act, by, name }): Act[] => {
      if (by === 'package') return [{ act, target: { by, package: name } }];
      if (by === 'kind')
        return FRAME_KINDS.includes(name as FrameKind)
          ? [{ act, target: { by, kind: name as FrameKind } }]
          : [];
      const frame = index.get(name);
      return frame === undefined ? [] : [{ act, target: { by, frame } }];
    }),
    root: state.root ? (index.get(state.root) ?? -1) : -1,
    foldRecursion: state.foldRecursion
  };
}

const ACT_WORDS: Record<Act['act'], string> = {
  hide: 'without stacks through',
  fold: 'folded into its caller:',
  only: 'only stacks through'
};
const KIND_WORDS: Partial<Record<string, string>> = {
  runtime: 'the runtime',
  dependency: 'all dependencies',
  native: 'native code',
  gc: 'the collector',
  app: 'the application'
};

/** An act in words, for the chip that takes it back. */
export function actWords({ act, by, name }: NamedAct): string {
  const target =
    by === 'frame' ? name.replace(/ \S+:\d+:\d+$/, '') : by === 'kind' ? (KIND_WORDS[name] ?? name) : name;
  return `${ACT_WORDS[act]} ${target}`;
}
