import type { EvidenceKind } from '@tromix/core/evidence/kinds';
import type { EvidenceItem } from '../queries/evidence';
import { settings } from '../settings';
import { EvidenceStore } from './evidence-store';

/** A piece of evidence as the thread that reads it is told of it. */
export const fileOf = <K extends EvidenceKind>({ id, format }: EvidenceItem<K>) => ({
  path: new EvidenceStore(settings().dataFolder).pathOf(id),
  format,
  maxBytes: settings().maxProfileBytes
});
