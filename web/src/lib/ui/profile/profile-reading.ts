import type { Frame } from '@tromix/core/profile/model';
import { formatDuration, formatShare } from '@tromix/core/text/format';
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

function opening(opened: OpenedProfile, view: ProfileView, lengthNs: number): string {
  if (opened.valueType === 'allocation')
    return `The process allocated *${formatWeight(view.sum, opened)}* while it was recorded, as far as the samples saw; what was freed again is in it. What an inlined function allocates, V8 counts for its caller.`;
  if (opened.unit === 'count')
    return `The stacks weigh *${formatWeight(view.sum, opened)}* together; the file does not say of what.`;
  return `In these ${formatDuration(lengthNs)} the process computed for *${formatDuration(view.sum)}* and was idle for ${formatDuration(view.idle)}.`;
}

/** What the selection shows, in two or three sentences; parts between stars are bold. */
export function profileReading(opened: OpenedProfile, view: ProfileView, lengthNs: number): string[] {
  if (view.samples === 0) return ['No sample lies in this selection. Choose a longer part of the strip.'];
  if (view.sum === 0)
    return view.idle > 0
      ? [
          `The process was *idle* all of these ${formatDuration(lengthNs)}: whatever took time here was waiting, not computing.`
        ]
      : ['No stack is left after what was hidden or asked for only. Take one of the steps back.'];
  const whole = wholeName(opened);
  const sentences = [opening(opened, view, lengthNs)];
  const top = view.functions.find(
    ({ frame }) => !['idle', 'program', 'root'].includes(opened.frames[frame].kind)
  );
  if (top) {
    const frame = opened.frames[top.frame];
    sentences.push(
      `*${formatShare(top.self / view.sum)} of the ${whole}* ${opened.valueType === 'allocation' ? 'come from' : 'is spent in'} *${frame.name.replaceAll('*', '∗')}* itself${placeOf(frame) ? ` (${placeOf(frame)})` : ''}.`
    );
  }
  const end = ownEnd(opened, view);
  if (end >= 0 && (view.show === 'root' || view.show === 'tree')) {
    const frame = opened.frames[view.nodeFrame[end]];
    if (!top || view.nodeFrame[end] !== top.frame)
      sentences.push(
        `The heaviest branch leads to *${frame.name.replaceAll('*', '∗')}* at ${placeOf(frame)}, with ${formatShare(view.total[end] / view.sum)}.`
      );
  }
  return sentences;
}
