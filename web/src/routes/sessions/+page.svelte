<script lang="ts">
  import { words } from '@tromix/core/text/words';
  import { sendAndSay } from '$lib/ui/frame/send';
  import { invalidate } from '$app/navigation';
  import { plural } from '@tromix/core/text/format';
  import { dateTime } from '$lib/ui/kit/time';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import Page from '$lib/ui/shell/Page.svelte';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import type { Column } from '$lib/ui/tables/columns';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  type Row = PageData['sessions'][number];
  const nameOf = ({ mine, agent }: Row): string =>
    (mine ? `this browser · ${agent}` : agent) || '(unknown browser)';
  const timeColumn = (
    key: string,
    title: string,
    atUs: (row: Row) => number,
    about?: string
  ): Column<Row> => ({
    key,
    title,
    about,
    width: 116,
    value: atUs,
    text: (row) => dateTime(atUs(row) / 1000)
  });
  const COLUMNS: Column<Row>[] = [
    {
      key: 'agent',
      title: 'browser',
      about: 'How the browser describes itself',
      width: 200,
      grows: true,
      value: nameOf,
      text: nameOf
    },
    { key: 'address', title: 'address', width: 130, value: (row) => row.address, text: (row) => row.address },
    timeColumn('created', 'signed in', (row) => row.createdAtUs),
    timeColumn('used', 'last used', (row) => row.usedAtUs, 'Noted every five minutes'),
    timeColumn('expires', 'expires', (row) => row.expiresAtUs)
  ];

  async function end(body: object, done: string): Promise<void> {
    if (!(await sendAndSay('DELETE', '/api/sessions', body, done))) return;
    await invalidate('tromix:sessions');
  }
  async function signOut(which: 'mine' | 'all'): Promise<void> {
    await end({ which }, 'Signed out.');
    location.assign('/login');
  }
</script>

<Page>
  {#snippet scope()}<span>Looking at <b class="font-semibold text-ink">who is signed in</b></span>{/snippet}
  {#snippet reading()}
    {#if data.asksToken}
      <Sentence text={words`${[plural(data.sessions.length, 'browser')]} signed in with the access token.`} />
      <p class="mb-3">
        A session ends after a week, when you end it here, or when the server is started with another token.
        Programs that send the token itself have no session.
      </p>
      <div class="flex flex-col items-start gap-2">
        <button class="button" onclick={() => void signOut('mine')}>Sign out</button>
        <button
          class="button"
          disabled={data.sessions.length < 2}
          onclick={() => void end({ which: 'others' }, 'All other sessions ended.')}>End all others</button
        >
        <button class="button" onclick={() => void signOut('all')}>End all, mine too</button>
      </div>
    {:else}
      <p>This server asks for no access token, so there is no sign-in. Set TROMIX_TOKEN to require one.</p>
    {/if}
  {/snippet}
  <DataTable
    label="Sessions"
    rows={data.sessions}
    columns={COLUMNS}
    keyOf={(row) => row.id}
    sort="-used"
    file="sessions"
    empty="No browser is signed in."
    actionsOf={(row) => [
      {
        name: 'End this session',
        run: () => void (row.mine ? signOut('mine') : end({ which: 'one', id: row.id }, 'The session ended.'))
      }
    ]}
  />
</Page>
