import { goto } from '$app/navigation';
import { toast } from 'svelte-sonner';
import type { Sides } from '@tromix/core/sides';
import { comparedQuery } from '$lib/compared-scopes';
import { scopeQuery, type Scope } from '$lib/scope';
import { send } from '$lib/ui/frame/send';
import { currentScope } from '$lib/ui/shell/links';
import { chooseCase } from './pins.svelte';

/** Opens a case about a finding, with a first draft, and goes there. */
export const openCase = (finding: {
  service: string;
  endpoint: string;
  rule: string;
  subject: string;
}): Promise<void> => {
  const { service, endpoint, rule, subject } = finding;
  return openDraft('/api/cases/draft', {
    service,
    endpoint,
    rule,
    subject,
    query: scopeQuery(currentScope())
  });
};

/** Opens a case about two sides, with a first draft, and goes there. */
export const openCaseOfSides = (scopes: Sides<Scope>): Promise<void> =>
  openDraft('/api/cases/draft/why', { query: comparedQuery(scopes) });

async function openDraft(path: string, of: object): Promise<void> {
  try {
    const { id } = await send<{ id: string }>('POST', path, of);
    chooseCase(id);
    await goto(`/cases/${id}`);
  } catch (cause) {
    toast.error((cause as Error).message);
  }
}
