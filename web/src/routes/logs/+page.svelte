<script lang="ts">
  import { severityName } from '@tromix/core/formats/otlp/severity';
  import { formatCount, plural } from '@tromix/core/text/format';
  import { words } from '@tromix/core/text/words';
  import type { ListedLog } from '$lib/server/queries/logs';
  import { screenKeys } from '$lib/ui/frame/keys.svelte';
  import { urlState } from '$lib/ui/frame/url-state.svelte';
  import Choices from '$lib/ui/kit/Choices.svelte';
  import Sentence from '$lib/ui/kit/Sentence.svelte';
  import { dateTime, exactTime } from '$lib/ui/kit/time';
  import Level from '$lib/ui/logs/Level.svelte';
  import { LEVELS, LOG_PARAMS } from '$lib/ui/logs/log-state';
  import LogRecord from '$lib/ui/logs/LogRecord.svelte';
  import SearchField from '$lib/ui/logs/SearchField.svelte';
  import NoData from '$lib/ui/shell/NoData.svelte';
  import Page from '$lib/ui/shell/Page.svelte';
  import ScopeLine from '$lib/ui/shell/ScopeLine.svelte';
  import { textColumn } from '$lib/ui/tables/column-makers';
  import type { Column } from '$lib/ui/tables/columns';
  import DataTable from '$lib/ui/tables/DataTable.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();
  screenKeys([
    { keys: '↑ ↓', does: 'choose a record' },
    { keys: 'Enter', does: 'show it whole' }
  ]);
  const address = urlState(LOG_PARAMS);
  const { shown } = $derived(address);
  const { records } = $derived(data.list);
  const isSearch = $derived(shown.text !== '' || shown.level !== 'all' || shown.outside);

  const COLUMNS: Column<ListedLog>[] = [
    {
      key: 'at',
      title: 'at',
      width: 108,
      value: ({ atUs, atNs }) => atUs + atNs / 1000,
      text: ({ atUs }) => exactTime(atUs / 1000)
    },
    { key: 'level', title: 'severity', width: 62, value: ({ severity }) => severity },
    textColumn('service', 'service', ({ service }) => service, { width: 104 }),
    { key: 'body', title: 'what it says', width: 240, grows: true, value: ({ body }) => body },
    textColumn(
      'of',
      'of',
      ({ traceId, requestSpanId }) => (traceId === '' ? 'no trace' : requestSpanId ? 'a request' : 'a trace'),
      { width: 80, about: 'Whether it names a trace, and that has a request here' }
    )
  ];
  const ALSO_IN_FILES: Column<ListedLog>[] = [
    { key: 'host', title: 'host', width: 0, value: ({ host }) => host },
    { key: 'severity', title: 'severity name', width: 0, value: ({ severity }) => severityName(severity) },
    { key: 'trace', title: 'trace', width: 0, value: ({ traceId }) => traceId },
    { key: 'span', title: 'span', width: 0, value: ({ spanId }) => spanId }
  ];
  const saidSentence = $derived(
    words`${[plural(records.length, 'record')]}${data.list.more ? ', the newest of more' : ''}${records.length > 0 ? `, from ${dateTime(records.at(-1)!.atUs / 1000)} to ${dateTime(records[0].atUs / 1000)}` : ''}.`
  );
</script>

<Page>
  {#snippet scope()}
    <ScopeLine which={['service', 'host', 'release', 'time']} window={data.window} />
  {/snippet}
  {#snippet reading()}
    <Sentence text={saidSentence} />
    {#if !data.list.isAll}<p class="text-[11px] text-ink-3">
        Searched are the newest {formatCount(data.list.looked)} records of this time; choose a shorter one for what
        lies before them.
      </p>{/if}
    {#if data.one}<LogRecord record={data.one} />
    {:else if shown.record > 0}<p class="mt-2" role="status">This record is not kept any more.</p>
    {:else}<p class="text-[11px] text-ink-3">
        Records come by OTLP, masked as statements are. Those of a request stay as long as it does; those that
        name no trace stay for {plural(data.logDays, 'day')}.
      </p>{/if}
  {/snippet}

  {#if records.length === 0 && !isSearch}
    <NoData title="No log records in this time range">
      <p>
        Send them by OTLP to <code class="num">/v1/logs</code>, from a logger’s own exporter or a collector.
      </p>
    </NoData>
  {:else}
    <DataTable
      label="Log records"
      rows={records}
      columns={COLUMNS}
      keyOf={({ id }) => String(id)}
      hrefOf={({ id }) => address.href({ record: id })}
      sort=""
      exportAlso={ALSO_IN_FILES}
      empty="No record of this time is like that."
      file="logs"
      total={data.list.more ? null : records.length}
      linkName={(row) => `${exactTime(row.atUs / 1000)} ${row.body}`}
    >
      {#snippet head()}<h1 class="text-[13px] text-ink">Logs</h1>
        <SearchField
          label="Search text and attributes"
          value={shown.text}
          onsearch={(text) => void address.go({ text })}
        />
        <Choices
          label="severity"
          choices={LEVELS.map((key) => ({
            key,
            name: key === 'all' ? 'all' : `${key}${key === 'fatal' ? '' : ' +'}`,
            href: address.href({ level: key })
          }))}
          value={shown.level}
        />
        <Choices
          label="of"
          choices={[
            { key: '', name: 'all', href: address.href({ outside: false }) },
            { key: '1', name: 'no trace', href: address.href({ outside: true }) }
          ]}
          value={shown.outside ? '1' : ''}
        />{/snippet}
      {#snippet cell(row, column)}
        {#if column.key === 'level'}<Level severity={row.severity} />
        {:else if column.key === 'body'}<span class="block truncate num" title={row.body}>{row.body}</span>
        {/if}
      {/snippet}
    </DataTable>
  {/if}
</Page>
