import { error } from '@sveltejs/kit';
import { ALL_RULES } from '@tromix/core/findings/all-rules';
import type { PageLoad } from './$types';

export const load: PageLoad = ({ params }) => {
  for (const { about, rules } of ALL_RULES) {
    const rule = rules.find((one) => one.rule === params.rule);
    if (rule) return { rule, about };
  }
  error(404, 'There is no rule of that name.');
};
