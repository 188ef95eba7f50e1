<script lang="ts">
  import Labelled from './Labelled.svelte';

  /** A number of a form under its name. Without a step only whole numbers are taken. */
  interface Props {
    label: string;
    value: number;
    min: number;
    max?: number;
    step?: number | 'any';
    required?: boolean;
    /** How wide, as a class. */
    width?: string;
  }
  let { label, value = $bindable(), min, max, step, required = false, width = 'w-20' }: Props = $props();
</script>

<Labelled {label}
  ><input class="{width} field num" type="number" {min} {max} {step} {required} bind:value /></Labelled
>
