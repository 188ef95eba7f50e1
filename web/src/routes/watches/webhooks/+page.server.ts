import { deliveryList, hookList } from '$lib/server/watch/queries';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends }) => {
  depends('tromix:watches');
  const [hooks, deliveries] = await Promise.all([hookList(), deliveryList()]);
  return { title: 'Webhooks', hooks, deliveries, readMs: Date.now() };
};
