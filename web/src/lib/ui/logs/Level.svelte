<script lang="ts">
  import { ERROR_SEVERITY } from '@tromix/core/failures/logged-failures';
  import { severityName } from '@tromix/core/formats/otlp/severity';

  /** The severity of a log record, by its name. */
  let { severity }: { severity: number } = $props();
</script>

<span class={severity >= ERROR_SEVERITY ? 'font-semibold text-alarm' : 'text-ink-3'}
  >{severityName(severity) || '–'}</span
>
