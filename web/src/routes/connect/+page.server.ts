import { whoSends } from '$lib/server/queries/who-sends';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async () => ({ who: await whoSends(), title: 'Connect' });
