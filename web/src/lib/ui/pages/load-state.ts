import { defineParams, text } from '$lib/ui/frame/params';

/** What is looked at of one load. */
export const LOAD_PARAMS = defineParams({
  /** Key of the line that is chosen; '' for the one that costs most. */
  row: text()
});
