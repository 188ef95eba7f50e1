<script lang="ts">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { PAGE_PARAMS, type PageChoices } from '$lib/page-choices';
  import type { TimeWindow } from '$lib/scope';
  import type { PageScopeNames } from '$lib/server/queries/pages/page-scope-names';
  import { urlState } from '$lib/ui/frame/url-state.svelte';
  import { changeScope, currentScope } from '$lib/ui/shell/links';
  import ScopeLine from '$lib/ui/shell/ScopeLine.svelte';
  import ScopeMenu from '$lib/ui/shell/ScopeMenu.svelte';
  import type { ScopeChoice } from '$lib/ui/shell/scope-parts';

  /** Which page loads are looked at, as one sentence whose parts can be changed. */
  interface Props {
    names: PageScopeNames;
    window: TimeWindow;
    /** The page that is looked at, by number; none for every page. */
    pageId?: number;
  }
  let { names, window, pageId }: Props = $props();
  const address = urlState(PAGE_PARAMS);
  const scope = $derived(currentScope());

  const choice = (
    about: string,
    every: string,
    listed: readonly string[],
    value: string,
    told = value
  ): ScopeChoice => ({
    about,
    shown: told || every,
    value,
    options: [
      { label: every, value: '' },
      ...[...new Set([...listed, ...(value ? [value] : [])])].map((name) => ({ label: name, value: name }))
    ]
  });
  const pages = $derived<ScopeChoice>({
    about: 'Page',
    shown: names.pages.find(({ id }) => id === pageId)?.name ?? 'every page',
    value: pageId === undefined ? '' : String(pageId),
    options: [
      { label: 'every page', value: '' },
      ...names.pages.map(({ id, site, name }) => ({ label: name, detail: site, value: String(id) }))
    ],
    more: names.morePages
  });
  const goToPage = (id: string): void => void goto(`/pages${id && `/${id}`}${page.url.search}`);
  const own = (change: Partial<PageChoices>): void => void address.go(change);
</script>

<span>Looking at page loads of</span>
<ScopeMenu choice={pages} onchoose={goToPage} />
{#if pageId === undefined && (names.sites.length > 1 || scope.service)}
  <span>of</span>
  <ScopeMenu
    choice={choice('Site', 'every site', names.sites, scope.service)}
    onchoose={(service) => void changeScope({ service, endpoint: '' })}
  />
{/if}
<span>by</span>
<ScopeMenu
  choice={choice('Device', 'every kind of device', names.devices, address.shown.device)}
  onchoose={(device) => own({ device })}
/>
{#if names.connections.length > 1 || address.shown.connection}
  <span>on</span>
  <ScopeMenu
    choice={choice('Connection', 'every connection', names.connections, address.shown.connection)}
    onchoose={(connection) => own({ connection })}
  />
{/if}
{#if names.countries.length > 1 || address.shown.country}
  <span>in</span>
  <ScopeMenu
    choice={choice('Country', 'every country', names.countries, address.shown.country)}
    onchoose={(country) => own({ country })}
  />
{/if}
<span class="-ml-1">{scope.release ? ', release' : ','}</span>
<ScopeMenu
  choice={choice('Release', 'every release', names.releases, scope.release)}
  onchoose={(release) => void changeScope({ release })}
/>
<ScopeLine which={['time']} {window} />
