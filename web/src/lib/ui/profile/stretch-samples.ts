import { between } from '@tromix/core/profile/slice';
import { UNSHAPED } from '@tromix/core/profile/shape';
import { formatShare } from '@tromix/core/text/format';
import { openProfile } from './open-profile';
import { placeOf } from './profile-reading';

/** A stretch of time within a profile, nanoseconds from its start. */
export interface ProfileStretch {
  profile: { id: string };
  fromNs: number;
  toNs: number;
}

/** What samples say of a stretch. */
export interface StretchSamples {
  /** Time the process computed in it, and time it was idle, nanoseconds. */
  busyNs: number;
  idleNs: number;
  samples: number;
  /** Its hottest function in words; '' where it computed nothing. */
  top: string;
}

/** Looks stretches up in the profiles that cover them; null where a profile cannot be read. */
export async function samplesOf(stretches: readonly ProfileStretch[]): Promise<(StretchSamples | null)[]> {
  const found = new Array<StretchSamples | null>(stretches.length).fill(null);
  for (const id of new Set(stretches.map(({ profile }) => profile.id))) {
    const open = openProfile();
    try {
      const opened = await open.service.open(
        [{ url: `/api/evidence/${id}/content`, name: '', offsetNs: 0 }],
        { stripBins: 1, hasSources: false, measure: '' }
      );
      if ('error' in opened) continue;
      for (let i = 0; i < stretches.length; i++) {
        if (stretches[i].profile.id !== id) continue;
        const view = await open.service.view({
          show: 'tree',
          selection: between(stretches[i].fromNs, stretches[i].toNs),
          shaping: UNSHAPED,
          frame: -1,
          file: '',
          zoom: { from: 0, to: 1 },
          pixels: 0,
          moving: true
        });
        const top = view.functions.find(
          ({ frame }) => !['idle', 'program'].includes(opened.frames[frame].kind)
        );
        const frame = top && opened.frames[top.frame];
        found[i] = {
          busyNs: view.sum,
          idleNs: view.idle,
          samples: view.samples,
          top:
            top && frame
              ? `${frame.name}${placeOf(frame) ? ` (${placeOf(frame)})` : ''}, ${formatShare(top.self / view.sum)} of it`
              : ''
        };
      }
    } finally {
      open.close();
    }
  }
  return found;
}

/** What the samples make of a stretch that no span covers, in a sentence. */
export function stretchWords(
  { busyNs, idleNs, samples, top }: StretchSamples,
  words: (ns: number) => string
): string {
  if (samples === 0) return 'A profile covers it, but has no sample in it.';
  if (busyNs < idleNs / 20)
    return `Its samples show the process idle for ${words(idleNs)}: it waited for something that no span covers.`;
  return `By its samples it computed for ${words(busyNs)}${top ? `, most of it in ${top}` : ''}${idleNs > busyNs / 20 ? `, and was idle for ${words(idleNs)}` : ''}.`;
}
