import { goto } from '$app/navigation';
import { toast } from 'svelte-sonner';
import { scopeQuery } from '$lib/scope';
import { send } from '$lib/ui/frame/send';
import { currentScope } from '$lib/ui/shell/links';
import { chooseCase } from './pins.svelte';

/** Opens a case about a finding, with a first draft, and goes there. */
export async function openCase(finding: {
  service: string;
  endpoint: string;
  rule: string;
  subject: string;
}): Promise<void> {
  const { service, endpoint, rule, subject } = finding;
  try {
    const { id } = await send<{ id: string }>('POST', '/api/cases/draft', {
      service,
      endpoint,
      rule,
      subject,
      query: scopeQuery(currentScope())
    });
    chooseCase(id);
    await goto(`/cases/${id}`);
  } catch (cause) {
    toast.error((cause as Error).message);
  }
}
