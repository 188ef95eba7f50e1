import type { Crash } from '../crashes/crash';
import { crashSentence, stackLines } from '../crashes/reading';

/** What `tromix inspect` says about a crash. */
export interface InspectedCrash extends Omit<Crash, 'exception' | 'lastLines'> {
  sentence: string;
  type: string;
  message: string;
  /** Innermost first; a part that repeats stands once. */
  frames: string[];
}

export function inspectCrash(crash: Crash): InspectedCrash {
  const { exception, lastLines, ...rest } = crash;
  void lastLines;
  return {
    ...rest,
    sentence: crashSentence(crash),
    type: exception?.type ?? '',
    message: exception?.message ?? '',
    frames: stackLines(crash)
  };
}
