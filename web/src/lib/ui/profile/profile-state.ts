import type { Frame, FrameKind } from '@tromix/core/profile/model';
import { FRAME_KINDS } from '@tromix/core/profile/model';
import type { Act, Shaping, Target } from '@tromix/core/profile/shape';
import * as v from 'valibot';
import {
  defineParams,
  flag,
  integer,
  oneOf,
  text,
  type Param,
  type ParamSet,
  type StateOfSet
} from '../frame/params';
import { zoomParam } from './flame-view';
import { SHOWS } from './shows';

/** An act by the name of its target, which stands in links: numbers of frames belong to one reading of one file. */
export interface NamedAct {
  act: Act['act'];
  by: Target['by'];
  name: string;
}

/** The same function has the same name whenever the file is read. */
export const nameOf = ({ name, file, line, column }: Frame): string =>
  file ? `${name} ${file}:${line}:${column}` : name;

/** Acts in the order they were done, as `hide~package~left-pad`. */
const acts = (): Param<NamedAct[]> => ({
  read: v.pipe(
    v.array(v.string()),
    v.transform((written) =>
      written.flatMap((one) => {
        const [, act, by, name] = /^(hide|fold|only)~(frame|package|kind)~(.+)$/s.exec(one) ?? [];
        return act ? [{ act: act as Act['act'], by: by as Target['by'], name }] : [];
      })
    )
  ),
  write: (value) => value.map(({ act, by, name }) => `${act}~${by}~${name}`),
  name: 'act'
});

/** A value of a label that samples must have. */
export interface NamedLabel {
  key: string;
  value: string;
}

/** Labels as `endpoint~/berth`. */
const labels = (): Param<NamedLabel[]> => ({
  read: v.pipe(
    v.array(v.string()),
    v.transform((written) =>
      written.flatMap((one) => {
        const at = one.indexOf('~');
        return at > 0 ? [{ key: one.slice(0, at), value: one.slice(at + 1) }] : [];
      })
    )
  ),
  write: (value) => value.map(({ key, value: of }) => `${key}~${of}`),
  name: 'label'
});

/** What is shown of a profile and what was done to it: each step can be gone back by the browser. */
const PARAMS = defineParams({
  show: oneOf(SHOWS, 'root'),
  /** Nanoseconds from the start; −1 for all. */
  cutFrom: integer(-1),
  cutTo: integer(-1),
  /** What weighs, of several things that were measured; '' for the file's default. */
  measure: text(),
  /** Index of the thread; −1 for all. */
  thread: integer(-1),
  labels: labels(),
  idle: flag(),
  /** In time order, idle stretches are not closed up. */
  even: flag(),
  foldRecursion: flag('recursion', 'folded'),
  acts: acts(),
  /** Name of the function whose calls are merged; '' for none. */
  root: text(),
  /** Name of the function that callers or neighbours are asked of; '' for none. */
  of: text(),
  file: text(),
  /** What is searched for among the functions. */
  find: text(),
  /** Name of the function that is chosen; '' for none. */
  chosen: text('at'),
  /** Part of the picture that is in view. */
  zoom: zoomParam(),
  /** Endpoint whose requests' time alone counts; '' for all time. */
  during: text()
});

/** A stretch of a profile, nanoseconds from its start. */
export interface Cut {
  from: number;
  to: number;
}

export type ProfileState = Omit<StateOfSet<typeof PARAMS>, 'cutFrom' | 'cutTo'> & { cut: Cut | null };

export const PROFILE_PARAMS: ParamSet<ProfileState> = {
  read: (query) => {
    const { cutFrom: from, cutTo: to, ...state } = PARAMS.read(query);
    return { ...state, cut: from >= 0 && to > from ? { from, to } : null };
  },
  write: (query, { cut, ...state }) =>
    PARAMS.write(query, {
      ...state,
      cutFrom: cut ? Math.round(cut.from) : -1,
      cutTo: cut ? Math.round(cut.to) : -1
    })
};

/** Frames by name. */
export function frameIndex(frames: readonly Frame[]): Map<string, number> {
  // Who asks in words knows only the name: of several functions of it the first is meant.
  const bare = frames.map(({ name }, i): [string, number] => [name, i]).reverse();
  return new Map([...bare, ...frames.map((frame, i): [string, number] => [nameOf(frame), i])]);
}

/** The shaping a state asks for. Acts about what this profile does not have do nothing. */
export function shapingOf(state: ProfileState, index: ReadonlyMap<string, number>): Shaping {
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

/** The labels a state asks for. A value that this profile does not have is had by no sample. */
export const labelsOf = (
  state: Pick<ProfileState, 'labels'>,
  known: readonly { key: string; values: readonly { name: string }[] }[]
): { label: number; value: number }[] =>
  state.labels.map(({ key, value }) => {
    const label = known.findIndex((one) => one.key === key);
    const of = known[label]?.values.findIndex(({ name }) => name === value) ?? -1;
    return of < 0 ? { label: -1, value: 0 } : { label, value: of };
  });

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
