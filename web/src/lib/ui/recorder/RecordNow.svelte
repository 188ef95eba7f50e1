<script lang="ts">
  import { send } from '$lib/ui/frame/send';
  import { viewLink } from '$lib/ui/shell/links';
  import { nameOf, wantedTarget, type Target, type WantedProcess } from './recording-words';

  /** Records a process at once, where its inspector answers; else it says how to open one. */
  interface Props {
    wanted: WantedProcess;
    kind: 'cpu' | 'allocation';
  }
  let { wanted, kind }: Props = $props();

  const SECONDS = 30;
  const INTERVALS = { cpu: 1000, allocation: 32_768 } as const;
  let phase = $state<'idle' | 'asking' | 'recording'>('idle');
  let said = $state('');

  async function record(): Promise<void> {
    phase = 'asking';
    said = '';
    try {
      const target = wantedTarget(await send<Target[]>('GET', '/api/recordings/targets'), wanted);
      if (target) {
        await send('POST', '/api/recordings', {
          address: target.address,
          kind,
          seconds: SECONDS,
          interval: INTERVALS[kind]
        });
        said = `${nameOf(target)} is being recorded for ${SECONDS} s.`;
        phase = 'recording';
        return;
      }
      said = `No inspector of ${wanted.pid > 0 ? `process ${wanted.pid}` : wanted.service} on ${wanted.host} answers: start it with node --inspect, or send it SIGUSR1.`;
    } catch (cause) {
      said = (cause as Error).message;
    }
    phase = 'idle';
  }
</script>

{#if phase === 'recording'}<a class="button" href={viewLink('/recorder')}>Its recording</a>
{:else}<button class="button" type="button" disabled={phase === 'asking'} onclick={() => void record()}
    >Record it now</button
  >{/if}
<span class="basis-full text-[11px] text-ink-2 empty:hidden" role="status">{said}</span>
