import type { Frame } from '@tromix/core/profile/model';
import { formatCount, formatDuration, formatShare, plural } from '@tromix/core/text/format';
import { words, type Words } from '@tromix/core/text/words';
import type { OpenedProfile, ProfileView } from '$lib/workers/profile.worker';
import { formatWeight, wholeName } from '@tromix/core/profile/units';

/** Path and line of a frame as it is read: the last two parts of the path. */
export function placeOf(frame: Frame): string {
  if (!frame.file && frame.kind === 'app' && frame.line) return `no address:${frame.line}`;
  if (!frame.file) return frame.kind === 'native' ? 'native' : '';
  if (frame.kind === 'runtime') return frame.file.replace(/^node:internal\//, 'node:');
  const parts = frame.file.replace(/^file:\/\//, '').split('/');
  const short = frame.kind === 'dependency' ? `${frame.package} ${parts.at(-1)}` : parts.slice(-2).join('/');
  return frame.line ? `${short}:${frame.line}` : short;
}

/** The last frame of the heaviest branch that is the application's own: what a developer can change. */
export function ownEnd(opened: OpenedProfile, view: ProfileView): number {
  const branch = view.heaviest;
  for (let i = branch.length - 1; i >= 0; i--)
    if (opened.frames[view.nodeFrame[branch[i]]].kind === 'app') return branch[i];
  return -1;
}

function opening(opened: OpenedProfile, view: ProfileView, lengthNs: number): Words {
  const sum = formatWeight(view.sum, opened);
  const counts = opened.unit === 'count';
  const objects = counts ? ' objects' : '';
  if (opened.valueType === 'allocation')
    return opened.measure === undefined
      ? words`The process allocated ${[sum]} while it was recorded, by its samples; this includes what was freed since. V8 counts what an inlined function allocates for its caller.`
      : words`The process allocated ${[sum]}${objects}, by its samples; this includes what was freed since.`;
  if (opened.valueType === 'memory')
    return words`${[sum]}${objects} were in use when it was recorded, by its samples.`;
  if (opened.valueType === 'waiting')
    return words`Threads waited ${[sum]}${counts ? ' times' : ' in all'} in these stacks.`;
  if (counts)
    return opened.measure === undefined
      ? words`The stacks weigh ${[sum]} in total; the file does not name the unit.`
      : words`The stacks add up to ${[`${sum} ${wholeName(opened)}`]}.`;
  if (opened.durationNs > 0)
    return words`In these ${formatDuration(lengthNs)} the process computed for ${[formatDuration(view.sum)]} and was idle for ${formatDuration(view.idle)}.`;
  const recorded =
    opened.recordedNs > 0 ? ` in the ${formatDuration(opened.recordedNs)} it was recorded` : '';
  return opened.valueType === 'cpu'
    ? words`The process computed for ${[sum]}${recorded}. When is not told by its samples.`
    : words`The stacks add up to ${[sum]}${recorded}.`;
}

/** How a function takes its share of what is measured. */
const TAKES: Partial<Record<OpenedProfile['valueType'], string>> = {
  allocation: 'comes from',
  memory: 'was allocated in'
};

/** What was counted, over the whole recording; null where nothing was. */
function countedWords({ calls, frames, durationNs }: OpenedProfile): Words | null {
  if (!calls) return null;
  let [all, most] = [0, -1];
  calls.forEach((count, frame) => {
    all += count;
    const isOwn = frames[frame].kind === 'app';
    if (isOwn && count > (most < 0 ? 0 : calls[most])) most = frame;
  });
  const over = durationNs > 0 ? ` in ${formatDuration(durationNs)}` : '';
  return most < 0
    ? words`${[plural(all, 'call')]} were counted${over}.`
    : words`${[plural(all, 'call')]} were counted${over}, most of the application’s of ${[frames[most].name]}: ${formatCount(calls[most])}.`;
}

/** What the selection shows, in two or three sentences. @param begin the first of them, where it is not of one recording */
export function profileReading(
  opened: OpenedProfile,
  view: ProfileView,
  lengthNs: number,
  begin: readonly Words[] = [opening(opened, view, lengthNs)]
): Words[] {
  const counted = countedWords(opened);
  if (view.samples === 0 && counted) return [counted];
  if (view.samples === 0) return [['No samples in this selection. Select a longer part of the strip.']];
  if (view.sum === 0 && view.idle > 0)
    return [
      words`The process was ${['idle']} for all of these ${formatDuration(lengthNs)}: it waited, it did not compute.`
    ];
  if (view.sum === 0) return [['Your filters leave no stacks. Remove one.']];
  const top = view.functions.find(
    ({ frame }) => !['idle', 'program', 'root'].includes(opened.frames[frame].kind)
  );
  const sentences = [...begin, ...(counted ? [counted] : [])];
  if (top) {
    const frame = opened.frames[top.frame];
    const share = `${formatShare(top.self / view.sum)} of the ${wholeName(opened)}`;
    const where = placeOf(frame) ? ` (${placeOf(frame)})` : '';
    sentences.push(
      words`${[share]} ${TAKES[opened.valueType] ?? (opened.unit === 'count' ? 'is in' : 'is spent in')} ${[frame.name]} itself${where}.`
    );
  }
  const end = view.show === 'root' || view.show === 'tree' ? ownEnd(opened, view) : -1;
  if (end >= 0 && view.nodeFrame[end] !== top?.frame) {
    const frame = opened.frames[view.nodeFrame[end]];
    sentences.push(
      words`The heaviest branch leads to ${[frame.name]} at ${placeOf(frame)}, with ${formatShare(view.total[end] / view.sum)}.`
    );
  }
  return sentences;
}
