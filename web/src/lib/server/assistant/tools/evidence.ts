import { formatWeight, wholeName } from '@tromix/core/profile/units';
import { EVIDENCE_KINDS, type EvidenceKind } from '@tromix/core/evidence/kinds';
import { formatBytes, formatCount, formatDuration, formatShare, plural } from '@tromix/core/text/format';
import * as v from 'valibot';
import { fileOf } from '../../evidence/file-of';
import { heapPlace, indexState } from '../../heap/indexes';
import { evidenceOf, evidenceSeries, itemOfKind, type EvidenceItem } from '../../queries/evidence';
import { callEvidenceReader, callHeapReader } from '../../workers';
import { AskInstead, oneLine, paged } from '../answer';
import { linkOf, PAGE } from '../scope-input';
import { tool } from '../tool';

const READ_MS = 60_000;
const TOP = 15;
const id = (what: string) =>
  v.pipe(
    v.string(),
    v.regex(/^[0-9a-f]{64}$/, 'Expected an id as list_evidence names it: 64 hexadecimal digits.'),
    v.description(`Id of the ${what}, as list_evidence names it.`)
  );

async function itemOr<K extends EvidenceKind>(of: string, kind: K): Promise<EvidenceItem<K>> {
  const item = await itemOfKind(of, kind);
  if (!item) throw new AskInstead(`There is no ${kind} of this id. Ask list_evidence with kind "${kind}".`);
  return item;
}
const nameOf = ({ service, name, release, host, startedAtUs }: EvidenceItem): string =>
  oneLine(
    [
      service || name || 'unnamed',
      release,
      host,
      startedAtUs === null ? 'no time' : new Date(startedAtUs / 1000).toISOString()
    ]
      .filter(Boolean)
      .join(', ')
  );
const findingLine = ({
  title,
  sentence,
  remedy
}: {
  title: string;
  sentence: string;
  remedy: string;
}): string => `- **${title}.** ${oneLine(sentence, 500)} ${oneLine(remedy)}`;

export const listEvidence = tool({
  name: 'list_evidence',
  says: 'Recorded profiles, thread dumps, crashes, heap dumps, load runs and statement logs, newest first, with their ids for the tools that read them.',
  input: {
    kind: v.optional(v.picklist(EVIDENCE_KINDS)),
    service: v.optional(v.pipe(v.string(), v.maxLength(300))),
    page: PAGE
  },
  async answer({ kind, service, page }, { origin }) {
    const kinds: EvidenceKind[] = kind ? [kind] : EVIDENCE_KINDS;
    const all = (await Promise.all(kinds.map((one) => evidenceOf(one))))
      .flat()
      .filter((item) => service === undefined || item.service === service)
      .toSorted((a, b) => (b.startedAtUs ?? 0) - (a.startedAtUs ?? 0));
    if (all.length === 0)
      throw new AskInstead(
        'There is no such evidence here. Leave "kind" and "service" out to see what there is.'
      );
    const { rows, note } = paged(all, page);
    return [
      ...rows.map((item) => `- ${item.kind} ${item.id}: ${nameOf(item)}, ${formatBytes(item.bytes)}`),
      note,
      linkOf(origin, '/evidence', null)
    ];
  }
});

export const readProfileTool = tool({
  name: 'read_profile',
  says: 'A profile: the functions with most time (or bytes) of their own, the heaviest branch, findings; with "function", who calls it and whom it calls. Shares are of all that was sampled, idle left out.',
  input: {
    id: id('profile'),
    function: v.optional(
      v.pipe(v.string(), v.minLength(1), v.maxLength(200), v.description('Part of a function name.'))
    )
  },
  async answer({ id: of, function: name }, { origin }) {
    const item = await itemOr(of, 'profile');
    const link = linkOf(origin, `/profiles/${of}`, null, name ? { find: name } : {});
    if (name) {
      const { found, sum, ...of } = await callEvidenceReader(
        (reader) => reader.functions(fileOf(item), name, 3),
        READ_MS
      );
      if (found.length === 0)
        throw new AskInstead(
          `No function of this profile has "${oneLine(name)}" in its name. Ask without "function" for the heaviest.`
        );
      const around = (list: { name: string; weight: number }[]): string =>
        list
          .slice(0, 8)
          .map((one) => `${oneLine(one.name, 120)} (${formatShare(one.weight / sum)})`)
          .join(', ') || 'none';
      return [
        ...found.flatMap((one) => [
          `**${oneLine(one.name)}**${one.file ? ` ${oneLine(one.file)}:${one.line}` : ''}: itself ${formatWeight(one.self, of)} (${formatShare(one.self / sum)}), with what it calls ${formatWeight(one.total, of)} (${formatShare(one.total / sum)}).`,
          `  called by: ${around(one.callers)}`,
          `  calls: ${around(one.callees)}`
        ]),
        link
      ];
    }
    const body = await callEvidenceReader((reader) => reader.profile(fileOf(item), TOP), READ_MS);
    return [
      `${nameOf(item)}: ${formatWeight(body.total, body)} of ${wholeName(body)} in ${plural(body.samples, 'sample')} over ${formatDuration(body.durationNs)}.`,
      '| self | total | function | where |',
      '| ---: | ---: | --- | --- |',
      ...body.functions.map(
        (one) =>
          `| ${formatShare(one.selfShare)} | ${formatShare(one.totalShare)} | ${oneLine(one.name, 160)} | ${one.file ? `${oneLine(one.file)}:${one.line}` : one.kind} |`
      ),
      `Heaviest branch: ${body.heaviest
        .slice(0, 12)
        .map((one) => `${oneLine(one.name, 80)} ${formatShare(one.share)}`)
        .join(' → ')}`,
      ...body.findings.map(findingLine),
      link
    ];
  }
});

export const readThreadsTool = tool({
  name: 'read_threads',
  says: 'Thread dumps of a process (the whole series of the one named): how many threads in which state, who blocks whom on which lock at which line, deadlocks, threads that did not move, alike stacks.',
  input: { id: id('thread dump') },
  async answer({ id: of }, { origin }) {
    const item = await itemOr(of, 'threads');
    const series = await evidenceSeries(item);
    const { dumps, stuck, findings } = await callEvidenceReader(
      (reader) => reader.threads(series.map(fileOf), TOP),
      READ_MS
    );
    return [
      `${nameOf(item)}: ${plural(dumps.length, 'dump')}.`,
      ...dumps.flatMap(({ capturedAt, runtime, threads, states, rootBlockers, deadlocks, groups }) => [
        `- ${capturedAt ?? 'no time'}, ${runtime}: ${plural(threads, 'thread')} (${Object.entries(states)
          .map(([state, many]) => `${formatCount(many)} ${state}`)
          .join(', ')})`,
        ...rootBlockers.map(
          ({ thread, lock, lockClass, transitive, at }) =>
            `  - ${plural(transitive, 'thread')} behind ${oneLine(thread)}, which holds ${oneLine(`${lockClass} ${lock}`)}${at ? `, at ${oneLine(at.function)} (${oneLine(at.file)}:${at.line})` : ''}`
        ),
        ...deadlocks.map(
          ({ threads: cycle }) => `  - deadlock: ${cycle.map((name) => oneLine(name)).join(' → ')}`
        ),
        ...groups
          .filter(({ frames }) => frames.length > 0)
          .slice(0, 6)
          .map(
            ({ count, state, frames }) =>
              `  - ${formatCount(count)} × ${state}: ${frames
                .slice(0, 4)
                .map((frame) => oneLine(frame, 140))
                .join(' ← ')}`
          )
      ]),
      ...stuck.map(
        ({ thread, dumps: times, frames }) =>
          `- ${oneLine(thread)} did not move in ${plural(times, 'dump')}: ${oneLine(frames[0] ?? 'no stack')}`
      ),
      ...findings.map(findingLine),
      linkOf(origin, `/threads/${of}`, null)
    ];
  }
});

export const readHeapTool = tool({
  name: 'read_heap',
  says: 'A heap dump: what holds the memory, which classes have most, findings; with "before" (an earlier dump of the process) what grew. Bytes: "shallow" are of the objects themselves, "retained" what would be freed with them.',
  input: { id: id('heap dump'), before: v.optional(id('earlier heap dump')) },
  async answer({ id: of, before }, { origin }) {
    const item = await itemOr(of, 'heap');
    const earlier = before ? await itemOr(before, 'heap') : null;
    if (earlier && earlier.format !== item.format)
      throw new AskInstead(
        'These dumps are of different runtimes: their objects cannot be held against each other.'
      );
    for (const one of [item, ...(earlier ? [earlier] : [])]) {
      const state = await indexState(one.id, false);
      if (state.state === 'failed') throw new AskInstead(state.message);
      if (state.state === 'building')
        throw new AskInstead(
          `The dump is being indexed (${formatShare(state.part)} done). Ask again in a few seconds.`
        );
    }
    const overview = await callHeapReader((reader) =>
      reader.overview(heapPlace(of, false), earlier ? heapPlace(earlier.id, false) : null)
    );
    const { classes } = await callHeapReader((reader) => reader.classes(heapPlace(of, false)));
    const { meta, boxes, findings, difference } = overview;
    return [
      `${nameOf(item)}: ${formatBytes(meta.liveBytes)} in ${formatCount(meta.liveObjects)} objects.`,
      `What holds it: ${boxes
        .slice(0, 8)
        .map(({ name, retainedBytes }) => `${oneLine(name, 120)} ${formatBytes(retainedBytes)}`)
        .join(', ')}.`,
      '| class | objects | shallow | retained |',
      '| --- | ---: | ---: | ---: |',
      ...classes
        .toSorted((a, b) => b.retainedBytes - a.retainedBytes)
        .slice(0, TOP)
        .map(
          (one) =>
            `| ${oneLine(one.name, 160)} | ${formatCount(one.count)} | ${formatBytes(one.shallowBytes)} | ${formatBytes(one.retainedBytes)} |`
        ),
      ...(difference
        ? [
            `Since the earlier dump (${formatBytes(difference.liveBytes.before)} → ${formatBytes(difference.liveBytes.after)}, matched by ${difference.matchedBy}):`,
            ...difference.classes
              .slice(0, TOP)
              .map(
                ({ name, before: was, after }) =>
                  `- ${oneLine(name, 160)}: ${formatCount(was.count)} → ${formatCount(after.count)} objects, ${formatBytes(was.shallowBytes)} → ${formatBytes(after.shallowBytes)} shallow`
              )
          ]
        : []),
      ...findings.map(findingLine),
      linkOf(origin, `/heap/${of}`, null, before ? { before } : {})
    ];
  }
});
