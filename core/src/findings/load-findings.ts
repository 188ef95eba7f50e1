import { findBy } from './define-rule';
import type { FoundInLoad, LoadContext, LoadFinding } from './load-finding';
import { LOAD_RULES, type LoadRule } from './load-rules';

/** Everything the rules find in a load run. Whether its figures can be trusted comes first, then what costs the most time. */
export const findInLoad = (context: LoadContext): LoadFinding<LoadRule>[] =>
  findBy<LoadRule, LoadContext, FoundInLoad>(LOAD_RULES, context).sort(
    (a, b) => Number(b.rule === 'driver-late') - Number(a.rule === 'driver-late') || b.cost - a.cost
  );
