import { HEAP_RULES } from './heap-rules';
import { PROFILE_RULES } from './profile-rules';
import { REQUEST_RULES, type RuleText } from './rules';
import { THREAD_RULES } from './thread-rules';

/** Every rule, by what it looks at. */
export const ALL_RULES: readonly {
  about: 'requests' | 'profiles' | 'threads' | 'heap';
  rules: readonly RuleText<string>[];
}[] = [
  { about: 'requests', rules: REQUEST_RULES },
  { about: 'profiles', rules: PROFILE_RULES },
  { about: 'threads', rules: THREAD_RULES },
  { about: 'heap', rules: HEAP_RULES }
];
