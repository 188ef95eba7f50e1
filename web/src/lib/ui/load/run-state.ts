import { SAMPLE_ORDERS } from '@tromix/core/load/sample-rows';
import { defineParams, oneOf } from '$lib/ui/frame/params';

/** What the view of a run keeps in its address. */
export const RUN_PARAMS = defineParams({ order: oneOf(SAMPLE_ORDERS, 'slowest') });
