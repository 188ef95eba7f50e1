<script lang="ts">
  import type { Severity } from '@tromix/core/findings/finding';

  /** How severe a finding is: by shape first, by colour second. */
  let { severity }: { severity: Severity } = $props();
  const SHAPES: Record<Severity, string> = { high: '◆', medium: '◈', low: '◇' };
</script>

<span
  style:color={severity === 'low' ? 'var(--ink-3)' : 'var(--pen)'}
  title="{severity} severity"
  aria-label="{severity} severity"
  role="img">{SHAPES[severity]}</span
>
