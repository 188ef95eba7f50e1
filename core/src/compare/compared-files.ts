import { difference, functionChanges } from '../profile/difference';
import type { Profile } from '../profile/model';
import { slice } from '../profile/slice';
import type { InspectedHeap } from '../inspect/heap';
import { eachSide, type Sides } from '../sides';

/** A function in two profiles: its shares of each profile's whole, itself and with everything it calls. */
export interface ComparedFunction extends Sides<{ self: number; total: number }> {
  name: string;
  file: string;
  line: number;
}

/**
 * Functions of two profiles by their shares, those whose own share changed most first.
 * @returns null where the profiles do not measure the same.
 */
export function compareProfiles(profiles: Sides<Profile>): ComparedFunction[] | null {
  const { before, after } = profiles;
  if (before.unit !== after.unit || before.valueType !== after.valueType) return null;
  const laid = difference(
    eachSide(profiles, (profile) => {
      const weights = slice(profile);
      return { frames: profile.frames, tree: profile, weights, scale: 1 / (weights.sum || 1) };
    })
  );
  return functionChanges(laid)
    .filter(({ frame }) => laid.frames[frame].kind !== 'idle')
    .map(({ frame, before: was, after: is }) => {
      const { name, file, line } = laid.frames[frame];
      return { name, file, line, before: was, after: is };
    });
}

/** Two heap dumps: what is alive, and the classes whose bytes changed, by how much. */
export interface ComparedHeaps {
  liveBytes: Sides<number>;
  classes: { name: string; count: Sides<number>; bytes: Sides<number> }[];
}

export function compareHeaps(heaps: Sides<InspectedHeap>): ComparedHeaps {
  const byName = eachSide(heaps, ({ classes }) => new Map(classes.map((one) => [one.name, one])));
  const names = new Set([...byName.before.keys(), ...byName.after.keys()]);
  const classes = [...names].map((name) => ({
    name,
    count: eachSide(byName, (side) => side.get(name)?.count ?? 0),
    bytes: eachSide(byName, (side) => side.get(name)?.shallowBytes ?? 0)
  }));
  const change = ({ bytes }: (typeof classes)[number]): number => Math.abs(bytes.after - bytes.before);
  return {
    liveBytes: eachSide(heaps, ({ liveBytes }) => liveBytes),
    classes: classes.filter((one) => change(one) > 0).sort((a, b) => change(b) - change(a))
  };
}
