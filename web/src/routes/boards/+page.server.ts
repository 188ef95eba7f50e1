import { boardList } from '$lib/server/watch/boards';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends }) => {
  depends('tromix:boards');
  return { title: 'Boards', boards: await boardList() };
};
