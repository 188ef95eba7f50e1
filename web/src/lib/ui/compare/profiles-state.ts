import { defineParams, oneOf, text, type StateOfSet } from '$lib/ui/frame/params';
import { zoomParam } from '$lib/ui/profile/flame-view';

/** What is looked at of two profiles. */
export const PROFILES_PARAMS = defineParams({
  /** What the weights are divided by; '' for what suits both. */
  by: oneOf(['share', 'time', 'requests', ''] as const, ''),
  /** Name of the function that is chosen; '' for none. */
  chosen: text('at'),
  zoom: zoomParam()
});
export type ProfilesState = StateOfSet<typeof PROFILES_PARAMS>;
