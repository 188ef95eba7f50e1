import { FAILURE_RULES } from './failure-rules';
import { functionSinceRelease } from './function-since-release';
import { HOST_RULES } from './host-rules';
import { PAGE_RULES } from './page-rules';
import { HEAP_RULES } from './heap-rules';
import { LOAD_RULES } from './load-rules';
import { PROFILE_RULES } from './profile-rules';
import type { RuleText } from './define-rule';
import { REQUEST_RULES } from './request-rules';
import { THREAD_RULES } from './thread-rules';

/** Every rule, by what it looks at. */
export const ALL_RULES: readonly {
  about: 'requests' | 'failures' | 'hosts' | 'pages' | 'profiles' | 'threads' | 'heap' | 'load runs';
  rules: readonly RuleText[];
}[] = [
  { about: 'requests', rules: REQUEST_RULES },
  { about: 'failures', rules: FAILURE_RULES },
  { about: 'hosts', rules: HOST_RULES },
  { about: 'pages', rules: PAGE_RULES },
  { about: 'profiles', rules: [...PROFILE_RULES, functionSinceRelease] },
  { about: 'threads', rules: THREAD_RULES },
  { about: 'heap', rules: HEAP_RULES },
  { about: 'load runs', rules: LOAD_RULES }
];

const BY_NAME = new Map(ALL_RULES.flatMap(({ rules }) => rules.map((rule) => [rule.rule, rule] as const)));

/** A rule's words; undefined for one this version does not know. */
export const ruleText = (rule: string): RuleText | undefined => BY_NAME.get(rule);
