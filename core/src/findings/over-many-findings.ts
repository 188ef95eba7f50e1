import { findBy } from './define-rule';
import type { FoundOverMany, ManyContext } from './over-many';
import { OVER_MANY } from './request-rules';

type Name = (typeof OVER_MANY)[number]['rule'];
/** A finding over many requests of one endpoint. */
export type ManyFinding = FoundOverMany & { rule: Name };

/** What hosts, releases and first requests of processes say when held against each other. */
export const findOverMany = (context: ManyContext): ManyFinding[] =>
  findBy<Name, ManyContext, FoundOverMany>(OVER_MANY, context);
