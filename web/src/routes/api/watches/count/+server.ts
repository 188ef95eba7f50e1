import { json } from '@sveltejs/kit';
import { unseenFirings } from '$lib/server/watch/queries';
import type { RequestHandler } from './$types';

/** How often watches came on and nobody looked: the number beside the view. */
export const GET: RequestHandler = async () => json({ count: await unseenFirings() });
