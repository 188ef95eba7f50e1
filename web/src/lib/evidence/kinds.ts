import { KINDS, type EvidenceKind } from '@tromix/core/evidence/kinds';
import { formatWeight, sampleName } from '@tromix/core/profile/units';
import { formatBytes, formatDuration } from '@tromix/core/text/format';
import type { EvidenceItem } from '$lib/server/queries/evidence';

/** How a kind of evidence is shown, wherever it is. */
export interface KindView<K extends EvidenceKind> {
  /** One of them. */
  label: string;
  /** Where one is looked at: a view, and its choices. @param name a function, class or thread in it to go to */
  place: (id: string, name?: string) => { path: string; choices?: Record<string, string> };
  /** The mark of one on the time rail. */
  sign: string;
  /** What it weighs: CPU or bytes of a profile, time of statements, bytes of a heap. '' where it is not known. */
  weight: (item: EvidenceItem<K>) => string;
  /** What it consists of, and how many; null where it is not known. */
  holds: (item: EvidenceItem<K>) => { count: number; noun: string } | null;
  /** Name it is saved under where it has none; null where the file itself is not kept. */
  savedAs: string | null;
}

const VIEWS: { [K in EvidenceKind]: KindView<K> } = {
  profile: {
    label: KINDS.profile.label,
    place: (id, name) => ({ path: `/profiles/${id}`, ...(name && { choices: { find: name } }) }),
    sign: '▚',
    weight: ({ summary }) => (summary ? formatWeight(summary.sum, summary) : ''),
    holds: ({ summary }) => summary && { count: summary.samples, noun: sampleName(summary) },
    savedAs: 'profile.cpuprofile'
  },
  threads: {
    label: KINDS.threads.label,
    place: (id, name) => ({ path: `/threads/${id}`, ...(name && { choices: { named: name } }) }),
    sign: '≡',
    weight: () => '',
    holds: ({ summary }) => summary && { count: summary.threads, noun: 'thread' },
    savedAs: 'threads.txt'
  },
  crash: {
    label: KINDS.crash.label,
    place: (id) => ({ path: `/crashes/${id}` }),
    sign: '✕',
    weight: () => '',
    holds: () => null,
    savedAs: 'crash.txt'
  },
  heap: {
    label: KINDS.heap.label,
    place: (id, name) => ({
      path: `/heap/${id}`,
      ...(name && { choices: { show: 'classes', class: name } })
    }),
    sign: '▣',
    weight: ({ summary }) => (summary ? formatBytes(summary.liveBytes) : ''),
    holds: ({ summary }) => summary && { count: summary.objects, noun: 'object' },
    savedAs: 'heap.txt'
  },
  load: {
    label: KINDS.load.label,
    place: (id) => ({ path: `/load/${id}` }),
    sign: '⇶',
    weight: ({ summary }) =>
      summary?.medianNs === null || !summary ? '' : `${formatDuration(summary.medianNs)} median`,
    holds: ({ summary }) => summary && { count: summary.samples, noun: 'request' },
    savedAs: 'load-run.json'
  },
  statements: {
    label: KINDS.statements.label,
    place: (id) => ({ path: '/calls', choices: { source: 'logs', log: id } }),
    sign: '▤',
    weight: ({ summary }) => (summary ? formatDuration(summary.sum) : ''),
    holds: ({ summary }) => summary && { count: summary.samples, noun: 'statement' },
    savedAs: null
  }
};

/** How a kind is shown. */
export const kindView = <K extends EvidenceKind>(kind: K): KindView<K> => VIEWS[kind];
