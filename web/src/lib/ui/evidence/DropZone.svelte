<script lang="ts">
  import { goto, invalidate } from '$app/navigation';
  import { formatBytes, formatCount, plural } from '@tromix/core/text/format';
  import { toast } from 'svelte-sonner';
  import { page } from '$app/state';
  import { KINDS, READ_INTO_VIEWS } from '@tromix/core/evidence/kinds';
  import { aroundIt } from '$lib/evidence/in-scope';
  import { scopeWindow, type Scope } from '$lib/scope';
  import { changeScope, evidenceLink, viewLink } from '$lib/ui/shell/links';
  import type { TakenEvidence } from '$lib/server/evidence/take-evidence';
  import { keepOldTraces } from './old-traces';
  import { upload, type UploadLabel } from './upload';

  let over = $state(false);
  let label = $state<UploadLabel>({ service: '', host: '', pid: '', startedAt: '' });
  let working = $state<{ name: string; part: number; cancel: AbortController } | null>(null);
  /** The server wants the ingest token for files; asked for once one was refused for the lack of it. */
  let asksToken = $state(false);
  let token = $state('');
  let failures = $state<{ name: string; message: string }[]>([]);
  let field: HTMLInputElement;

  async function take(files: Iterable<File>): Promise<void> {
    failures = [];
    /** Where what was stored last is looked at. */
    let stored = '';
    for (const file of files) {
      const cancel = new AbortController();
      working = { name: `${file.name}, ${formatBytes(file.size)}`, part: 0, cancel };
      const result = await upload(
        file,
        label,
        token,
        (part) => working && (working = { ...working, part }),
        cancel.signal
      );
      if (!result.ok) {
        failures = [...failures, { name: file.name, message: result.message }];
        asksToken ||= result.needsToken;
      } else if (result.taken.kind === 'traces') {
        toast.success(
          `${formatCount(result.taken.spans ?? 0)} spans of ${file.name} stored.`,
          showTime(result.taken)
        );
        tellOld(result.taken.old);
      } else if (result.taken.kind === 'pages') {
        const { count, first } = result.taken.loads!;
        stored = viewLink(`/pages/loads/${first}`);
        toast.success(
          `${plural(count, 'page load')} of ${file.name} read into Pages.`,
          showTime(result.taken)
        );
      } else if (result.taken.kind === 'statements')
        toast.success(
          `${plural(result.taken.statements ?? 0, 'statement')} of ${file.name} read into Calls.`,
          showTime(result.taken)
        );
      else {
        stored = evidenceLink({ kind: result.taken.kind, id: result.taken.id });
        toast.success(`${file.name} stored.`, showTime(result.taken));
      }
    }
    working = null;
    await Promise.all([invalidate('tromix:evidence'), invalidate('tromix:data')]);
    if (stored && failures.length === 0) void goto(stored);
  }

  /** What lies outside the time range that is looked at would not be seen: its own is offered. */
  function showTime(taken: TakenEvidence): { action?: { label: string; onClick: () => void } } {
    const { scope, nowMs } = page.data as { scope: Scope; nowMs: number };
    const window = scopeWindow(scope, nowMs);
    const around = aroundIt(taken);
    if (!around || (around.from * 1000 < window.toUs && around.to * 1000 > window.fromUs)) return {};
    return { action: { label: 'Show its time', onClick: () => void changeScope(around) } };
  }

  /** Traces older than they are kept go soon: whoever sends them says whether they should. */
  function tellOld(old: TakenEvidence['old']): void {
    if (!old) return;
    toast.warning(
      `${plural(old.traces, 'trace')} in it ${old.traces === 1 ? 'is' : 'are'} older than the ${old.keepDays} days that requests are kept, and will be removed after ${old.graceMinutes} minutes.`,
      { duration: 20_000, action: { label: 'Keep them', onClick: () => void keepOldTraces(old.source) } }
    );
  }

  function ondrop(event: DragEvent): void {
    event.preventDefault();
    over = false;
    void take([...(event.dataTransfer?.files ?? [])]);
  }
</script>

<section
  class="m-4 rounded border border-dashed border-rule bg-sheet recorder-grid p-4 data-[over=true]:border-pen"
  data-over={over}
  aria-label="Add evidence"
  ondragover={(event) => {
    event.preventDefault();
    over = true;
  }}
  ondragleave={() => (over = false)}
  {ondrop}
>
  <div class="flex items-center gap-3">
    <p class="text-[15px] font-semibold whitespace-nowrap">Drop a file here</p>
    <button class="button button-solid" disabled={working !== null} onclick={() => field.click()}
      >Choose a file</button
    >
    <input
      bind:this={field}
      type="file"
      multiple
      class="sr-only"
      tabindex="-1"
      aria-label="Evidence file"
      onchange={() => void take([...(field.files ?? [])]).then(() => (field.value = ''))}
    />
    <p class="text-ink-2">
      Traces, a profile, a heap or thread dump, a crash, page loads, a load run, or a log of statements; plain
      or gzip.
    </p>
  </div>
  <details class="mt-2">
    <summary class="text-ink-2">What is read of each</summary>
    <dl class="mt-1 grid max-w-3xl grid-cols-[auto_minmax(0,1fr)] gap-x-3 gap-y-0.5">
      {#each [...Object.values(READ_INTO_VIEWS), ...Object.values(KINDS)] as { label: kind, reads } (kind)}
        <dt class="text-ink-3">{kind}</dt>
        <dd>{reads}</dd>
      {/each}
    </dl>
  </details>
  <details class="mt-2">
    <summary class="text-ink-2"
      >Say where a profile or a dump comes from, so that requests can open it</summary
    >
    <div class="mt-2 grid max-w-2xl grid-cols-4 gap-2">
      <label class="text-[11px] text-ink-3"
        >service<input class="mt-0.5 block w-full field text-[13px]" bind:value={label.service} /></label
      >
      <label class="text-[11px] text-ink-3"
        >host<input class="mt-0.5 block w-full field text-[13px]" bind:value={label.host} /></label
      >
      <label class="text-[11px] text-ink-3"
        >process id<input
          class="mt-0.5 block w-full field text-[13px]"
          inputmode="numeric"
          bind:value={label.pid}
        /></label
      >
      <label class="text-[11px] text-ink-3"
        >began<input
          class="mt-0.5 block w-full field text-[13px]"
          type="datetime-local"
          step="0.001"
          bind:value={label.startedAt}
        /></label
      >
    </div>
  </details>
  {#if asksToken}
    <label class="mt-2 block text-ink-2"
      >Ingest token of this server, then choose the file again
      <input
        class="ml-2 w-72 field"
        type="password"
        autocomplete="off"
        bind:value={token}
        aria-label="Ingest token"
      /></label
    >
  {/if}
  {#if working}
    <div class="mt-2 flex items-center gap-3" role="status">
      <progress class="h-1.5 w-64" value={working.part} max="1" aria-label="Upload of {working.name}"
      ></progress>
      <span class="text-ink-2"
        >{working.part < 1 ? `Sending ${working.name}` : `Reading ${working.name}`}</span
      >
      <button class="button" onclick={() => working?.cancel.abort()}>Cancel</button>
    </div>
  {/if}
  {#each failures as { name, message }, i (i)}
    <p class="mt-2 text-alarm" role="alert"><b>{name}</b>: {message}</p>
  {/each}
</section>
