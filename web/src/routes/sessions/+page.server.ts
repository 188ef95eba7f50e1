import { sessionList } from '$lib/server/http/sessions';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ locals, depends }) => {
  depends('tromix:sessions');
  const sessions = await sessionList();
  return { sessions: sessions.map((session) => ({ ...session, mine: session.id === locals.session })) };
};
