import { publish } from '../live';
import { settings } from '../settings';
import { Turns } from '../turns';
import { change } from '../workers';
import { isEvidenceKind } from '@tromix/core/evidence/kinds';
import { EvidenceStore } from './evidence-store';
import { LIFECYCLE } from './lifecycle';

/** A file of evidence and its row change together, one after another. */
export const evidenceTurns = new Turns();

/** Removes a piece of evidence: first from the list, then its file, and what was worked out of it. */
export async function removeEvidence({ id, kind }: { id: string; kind: string }): Promise<void> {
  await evidenceTurns.take(id, async () => {
    await change('removeEvidence', id);
    await new EvidenceStore(settings().dataFolder).remove(id);
    if (isEvidenceKind(kind)) await LIFECYCLE[kind]?.removed(id);
  });
  publish('evidence');
}
