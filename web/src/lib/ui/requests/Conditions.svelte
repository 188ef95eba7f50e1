<script lang="ts">
  import ComparisonField from '$lib/ui/kit/ComparisonField.svelte';
  import { resource } from '$lib/ui/frame/resource.svelte';
  import { send } from '$lib/ui/frame/send';
  import { Popover } from 'bits-ui';
  import PlusIcon from '@lucide/svelte/icons/plus';
  import Condition from '$lib/ui/kit/Condition.svelte';
  import { REQUEST_RULES } from '@tromix/core/findings/request-rules';
  import type { AttributeName } from '$lib/server/queries/attributes';
  import type { NamedGroup } from '$lib/server/queries/names-by-id';
  import { conditionWords, withCondition, type Comparison } from '$lib/attribute-condition';
  import { changeScope } from '$lib/ui/shell/links';
  import type { Scope } from '$lib/scope';

  /** The conditions of a search that pick requests one by one, each of them removable, and a form for one more. */
  interface Props {
    scope: Scope;
    names: AttributeName[];
    group: NamedGroup | null;
    /** Name of the group of failures that is asked for; '' for none. */
    failure: string;
  }
  let { scope, names, group, failure }: Props = $props();

  const shown = $derived(
    [
      scope.status && {
        text: scope.status === 'failed' ? 'failed' : 'not failed',
        drop: { status: undefined }
      },
      scope.slower !== undefined && { text: `longer than ${scope.slower} ms`, drop: { slower: undefined } },
      scope.faster !== undefined && { text: `at most ${scope.faster} ms long`, drop: { faster: undefined } },
      scope.user && { text: `user ${scope.user}`, drop: { user: '' } },
      scope.group !== undefined && {
        text: `calls ${group?.fingerprint ?? `group ${scope.group}`}`,
        drop: { group: undefined }
      },
      scope.finding && {
        text: `finding “${REQUEST_RULES.find(({ rule }) => rule === scope.finding)?.name ?? scope.finding}”`,
        drop: { finding: '' }
      },
      scope.failure !== undefined && {
        text: `failure ${failure || scope.failure}`,
        drop: { failure: undefined }
      },
      ...scope.attributes.map((pair) => ({
        text: conditionWords(pair),
        drop: { attributes: scope.attributes.filter((other) => other !== pair) }
      }))
    ].filter((one) => one !== false && one !== '' && one !== undefined) as {
      text: string;
      drop: Partial<Scope>;
    }[]
  );

  const KINDS = {
    attribute: 'attribute',
    user: 'user',
    slower: 'longer than',
    faster: 'at most',
    status: 'status',
    finding: 'finding'
  };
  let open = $state(false);
  let kind = $state<keyof typeof KINDS>('attribute');
  let name = $state('');
  let comparison = $state<Comparison>('=');
  let value = $state('');

  const asked = resource(
    () =>
      open && kind === 'attribute' && name
        ? `/api/attributes?name=${encodeURIComponent(name)}&begin=${encodeURIComponent(value)}`
        : null,
    (url, signal) => send<{ value: string }[]>('GET', url, undefined, signal),
    { keep: true, afterMs: 80 }
  );
  const values = $derived(asked.value?.map((one) => one.value) ?? []);

  function add(event: SubmitEvent): void {
    event.preventDefault();
    const given = value.trim();
    const change: Partial<Scope> | null =
      given === ''
        ? null
        : kind === 'attribute'
          ? name
            ? { attributes: withCondition(scope.attributes, { name, comparison, value: given }) }
            : null
          : kind === 'user'
            ? { user: given }
            : kind === 'status'
              ? { status: given as 'failed' | 'ok' }
              : kind === 'finding'
                ? { finding: given }
                : Number.isFinite(Number(given))
                  ? { [kind]: Number(given) }
                  : null;
    if (!change) return;
    open = false;
    value = '';
    void changeScope(change);
  }
</script>

<div class="flex flex-wrap items-center gap-1.5">
  <span class="text-ink-2">with</span>
  {#each shown as { text, drop }, i (i)}
    <Condition {text} ondrop={() => void changeScope(drop)} />
  {:else}
    <span class="text-ink-3">no further condition</span>
  {/each}
  <Popover.Root bind:open>
    <Popover.Trigger class="button border-rule px-1.5 text-ink-2"
      ><PlusIcon size={12} /> condition</Popover.Trigger
    >
    <Popover.Portal>
      <Popover.Content class="pop w-80 p-3" align="start" sideOffset={4}>
        <form class="grid gap-2" onsubmit={add}>
          <label class="grid grid-cols-[80px_1fr] items-center"
            >Condition
            <select class="field" bind:value={kind} onchange={() => (value = '')}>
              {#each Object.entries(KINDS) as [key, text] (key)}<option value={key}>{text}</option>{/each}
            </select></label
          >
          {#if kind === 'attribute'}
            <label class="grid grid-cols-[80px_1fr] items-center"
              >Name
              <input
                class="min-w-0 field num"
                list="attribute-names"
                bind:value={name}
                placeholder="http.route"
              /></label
            >
            <datalist id="attribute-names"
              >{#each names as one (one.name)}<option value={one.name}>{one.values} values</option
                >{/each}</datalist
            >
            <ComparisonField bind:value={comparison} />
            {#if comparison.startsWith('!')}<p class="text-[11px] text-ink-3">
                Requests without the attribute match, too.
              </p>{/if}
          {/if}
          <label class="grid grid-cols-[80px_1fr] items-center"
            >{kind === 'slower' || kind === 'faster' ? 'Milliseconds' : 'Value'}
            {#if kind === 'status'}
              <select class="field" bind:value
                ><option value="">choose</option><option value="failed">failed</option><option value="ok"
                  >not failed</option
                ></select
              >
            {:else if kind === 'finding'}
              <select class="field" bind:value
                ><option value="">choose</option>{#each REQUEST_RULES as one (one.rule)}<option
                    value={one.rule}>{one.name}</option
                  >{/each}</select
              >
            {:else}
              <input class="min-w-0 field num" list="attribute-values" bind:value />
            {/if}</label
          >
          <datalist id="attribute-values"
            >{#each values as one (one)}<option value={one}></option>{/each}</datalist
          >
          <button class="button justify-self-start button-solid" type="submit">Add</button>
        </form>
      </Popover.Content>
    </Popover.Portal>
  </Popover.Root>
</div>
