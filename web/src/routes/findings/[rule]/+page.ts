import { error } from '@sveltejs/kit';
import { PROFILE_RULES } from '@tromix/core/findings/profile-rules';
import { REQUEST_RULES } from '@tromix/core/findings/rules';
import type { PageLoad } from './$types';

export const load: PageLoad = ({ params }) => {
  const ofProfiles = PROFILE_RULES.find((one) => one.rule === params.rule);
  const rule = ofProfiles ?? REQUEST_RULES.find((one) => one.rule === params.rule);
  if (!rule) error(404, 'There is no rule of that name.');
  return { rule, ofProfiles: ofProfiles !== undefined };
};
