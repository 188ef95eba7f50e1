<script lang="ts">
  import { ratingOf, type Vital } from '@tromix/core/pages/vitals';
  import { formatVital, ratingWords } from './vital-words';

  /** A vital in a table: what is poor is told by a mark, and by colour. */
  let { vital, value }: { vital: Vital; value: number | null } = $props();
  const rating = $derived(value === null ? null : ratingOf(vital, value));
</script>

<span
  class="num {rating === 'poor' ? 'font-semibold text-alarm' : rating === 'good' ? 'text-ink' : 'text-ink-2'}"
  title={ratingWords(vital, value)}
  >{#if rating === 'poor'}<span class="mr-1" role="img" aria-label="poor">▲</span>
  {/if}{formatVital(vital, value)}</span
>
