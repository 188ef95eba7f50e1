<script lang="ts">
  /** A masked statement, formatted where it is SQL the formatter reads. */
  let { text, sql }: { text: string; sql: boolean } = $props();
  let formatted = $state('');
  /** Longer texts take the formatter too long to be worth it. */
  const MAX_FORMATTED = 20_000;
  /** Shorter ones read well as they are. */
  const ONE_LINE = 90;
  $effect(() => {
    const wanted = text;
    formatted = wanted;
    if (!sql || wanted.length <= ONE_LINE || wanted.length > MAX_FORMATTED) return;
    void import('sql-formatter').then(({ format }) => {
      try {
        if (text === wanted)
          formatted = format(wanted, {
            language: 'sql',
            keywordCase: 'lower',
            paramTypes: { positional: true }
          });
      } catch {
        // A dialect the formatter does not know: the statement is shown as it is.
      }
    });
  });
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<pre
  class="max-h-48 overflow-auto rounded-[3px] border border-rule bg-paper p-2 num break-words whitespace-pre-wrap"
  tabindex="0"
  role="region"
  aria-label="Statement"
  data-testid="statement">{formatted}</pre>
