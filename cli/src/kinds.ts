import type { Recognised } from '@tromix/core/formats/recognise';
import { crash } from './kinds/crash';
import { heap } from './kinds/heap';
import type { KindOnCommandLine } from './kinds/kind';
import { load } from './kinds/load';
import { pages } from './kinds/pages';
import { profile } from './kinds/profile';
import { statements } from './kinds/statements';
import { threads } from './kinds/threads';
import { traces } from './kinds/traces';

/** How each kind is inspected and printed. */
export const KINDS_ON_COMMAND_LINE = {
  traces,
  pages,
  profile,
  statements,
  threads,
  crash,
  heap,
  load
} satisfies Record<Recognised['kind'], object>;

type Kinds = typeof KINDS_ON_COMMAND_LINE;
/** What is said of files of a kind. */
export type BodyOf<K extends keyof Kinds> = ReturnType<Kinds[K]['inspect']>;
/** A kind as the one loop over all of them sees it. */
export const kindOnCommandLine = (kind: keyof Kinds): KindOnCommandLine<unknown, unknown, object> =>
  KINDS_ON_COMMAND_LINE[kind] as KindOnCommandLine<unknown, unknown, object>;
