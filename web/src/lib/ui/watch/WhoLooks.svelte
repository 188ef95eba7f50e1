<script lang="ts">
  import { rememberWhoLooks, whoLooks } from './who-looks';

  /** Under which name somebody looks at notices: it stands beside what was looked at. */
  let name = $state(whoLooks());
</script>

<label class="mt-3 block text-[11px] text-ink-3"
  >You look at them as
  <input
    class="mt-0.5 block w-full field"
    maxlength="100"
    placeholder="a name, kept in this browser"
    bind:value={name}
    onchange={() => rememberWhoLooks(name)}
  /></label
>
