<script lang="ts">
  import type { DifferenceLedger, DifferenceLine } from '@tromix/core/compare/difference-ledger';
  import { callsWords, signedDuration } from '@tromix/core/compare/words';
  import type { Side } from '@tromix/core/sides';
  import { formatDuration } from '@tromix/core/text/format';
  import { LOOKS } from '$lib/ui/ledger/accounts';
  import { isCallLine, lineAccount, shortName } from './ledger-lines';

  /** An average request of each side as a bar of its parts, with a ribbon from each part to what became of it. */
  let { ledger }: { ledger: DifferenceLedger } = $props();
  let width = $state(800);
  const LEFT = 60;
  const RIGHT = 20;
  const [A_TOP, B_TOP, BAR] = [26, 112, 28];
  const MOST = 12;

  const greatest = $derived(Math.max(ledger.averageNs.before || 0, ledger.averageNs.after || 0, 1));
  const room = $derived(Math.max(100, width - LEFT - RIGHT));
  const x = (ns: number): number => LEFT + (ns / greatest) * room;

  interface Place {
    line: DifferenceLine | null;
    name: string;
    letter: string;
    colour: string;
    flat: string;
    on: string;
    from: Record<Side, number>;
    to: Record<Side, number>;
  }
  /** The widest first; many narrow ones stand together. */
  const places = $derived.by((): Place[] => {
    const ordered = ledger.lines.toSorted(
      (a, b) =>
        Math.max(b.perRequest.before.ns, b.perRequest.after.ns) -
        Math.max(a.perRequest.before.ns, a.perRequest.after.ns)
    );
    const at = { before: 0, after: 0 };
    const place = (line: DifferenceLine | null, ns: Record<Side, number>, rest = 0): Place => {
      const account = line && lineAccount(line);
      const look = account ? LOOKS[account] : null;
      const from = { ...at };
      at.before += ns.before;
      at.after += ns.after;
      return {
        line,
        name: line ? shortName(line) : `${rest} more`,
        letter: look?.letter ?? '',
        colour: look?.colour ?? 'var(--ink-3)',
        flat: look?.flat ?? 'var(--ink-3)',
        on: look?.on ?? 'var(--sheet)',
        from,
        to: { ...at }
      };
    };
    const of = ({ perRequest }: DifferenceLine): Record<Side, number> => ({
      before: perRequest.before.ns || 0,
      after: perRequest.after.ns || 0
    });
    const shown = ordered.slice(0, MOST).map((line) => place(line, of(line)));
    const rest = ordered.slice(MOST);
    if (rest.length === 0) return shown;
    const sum = rest.map(of).reduce((a, b) => ({ before: a.before + b.before, after: a.after + b.after }));
    return [...shown, place(null, sum, rest.length)];
  });
  const widthOf = (place: Place, side: Side): number => x(place.to[side]) - x(place.from[side]);

  /** The part that makes most of the difference, in words beside its ribbon. */
  const most = $derived(ledger.lines[0] && ledger.lines[0].differenceNs !== 0 ? ledger.lines[0] : null);
  const mostPlace = $derived(places.find(({ line }) => line !== null && line === most));
  const mostWords = $derived(
    most
      ? isCallLine(most) && most.perRequest.before.calls !== most.perRequest.after.calls
        ? `${callsWords(most.perRequest)} a request: ${signedDuration(most.differenceNs)}`
        : `${shortName(most)}: ${signedDuration(most.differenceNs)}`
      : ''
  );
  const ticks = $derived.by(() => {
    const step = niceStep(greatest / 6);
    return Array.from({ length: Math.floor(greatest / step) + 1 }, (_, i) => i * step);
  });
  function niceStep(about: number): number {
    const power = 10 ** Math.floor(Math.log10(about));
    return ([1, 2, 5, 10].find((of) => of * power >= about) ?? 10) * power;
  }
  const label = $derived(
    `An average request takes ${formatDuration(ledger.averageNs.before)} on side A and ${formatDuration(ledger.averageNs.after)} on side B. ${places
      .map(
        ({ name, from, to }) =>
          `${name}: ${formatDuration(to.before - from.before)}, then ${formatDuration(to.after - from.after)}`
      )
      .join('; ')}.`
  );
</script>

<div class="bg-sheet" bind:clientWidth={width}>
  <svg {width} height="176" role="img" aria-label={label}>
    <text x={LEFT} y="17" font-size="11" fill="var(--ink-3)" font-family="var(--font-mono)"
      >{formatDuration(ledger.averageNs.before)} on average</text
    >
    {#each [{ letter: 'A', y: A_TOP, colour: 'var(--ink-2)' }, { letter: 'B', y: B_TOP, colour: 'var(--pen)' }] as { letter, y, colour } (letter)}
      <text x="26" y={y + 19} font-size="13" font-weight="600" fill={colour}>{letter}</text>
    {/each}
    {#each places as place, i (i)}
      <path
        d="M{x(place.from.before)} {A_TOP + BAR}L{x(place.from.after)} {B_TOP}H{x(place.to.after)}L{x(
          place.to.before
        )} {A_TOP + BAR}z"
        fill={place.flat}
        opacity=".2"
      />
    {/each}
    {#each places as place, i (i)}
      {#each [{ side: 'before', y: A_TOP }, { side: 'after', y: B_TOP }] as { side, y } (side)}
        {@const wide = widthOf(place, side as Side)}
        <g>
          <title
            >{place.name}: {formatDuration(place.to[side as Side] - place.from[side as Side])} a request</title
          >
          <rect
            x={x(place.from[side as Side])}
            {y}
            width={Math.max(0, wide)}
            height={BAR}
            fill={place.flat}
          />
          {#if wide > 1.5}<path
              d="M{x(place.to[side as Side])} {y}v{BAR}"
              stroke="var(--sheet)"
              stroke-width=".8"
            />{/if}
          {#if wide > 74}<text
              x={x(place.from[side as Side]) + 7}
              y={y + 18}
              font-size="11"
              font-weight="600"
              fill={place.on}
              font-family="var(--font-mono)"
              >{place.letter} {formatDuration(place.to[side as Side] - place.from[side as Side])}</text
            >{/if}
        </g>
      {/each}
    {/each}
    {#if mostPlace}
      {@const middle =
        (x(mostPlace.from.before) +
          x(mostPlace.to.before) +
          x(mostPlace.from.after) +
          x(mostPlace.to.after)) /
        4}
      <text
        x={Math.min(width - RIGHT, Math.max(LEFT, middle))}
        y={(A_TOP + BAR + B_TOP) / 2 + 4}
        text-anchor={middle > width * 0.7 ? 'end' : middle < width * 0.3 ? 'start' : 'middle'}
        font-size="11.5"
        font-weight="600"
        fill="var(--ink)"
        stroke="var(--sheet)"
        stroke-width="4"
        paint-order="stroke"
        font-family="var(--font-mono)">{mostWords}</text
      >
    {/if}
    <text
      x={Math.min(x(ledger.averageNs.after || 0) + 9, width - 150)}
      y={B_TOP + (x(ledger.averageNs.after || 0) + 160 > width ? -5 : 18)}
      font-size="11"
      fill="var(--ink-3)"
      paint-order="stroke"
      stroke="var(--sheet)"
      stroke-width="4"
      font-family="var(--font-mono)">{formatDuration(ledger.averageNs.after)} on average</text
    >
    {#each ticks as tick (tick)}
      <path d="M{x(tick)} {B_TOP + BAR + 5}v5" stroke="var(--rule)" />
      <text
        x={x(tick)}
        y={B_TOP + BAR + 22}
        text-anchor="middle"
        font-size="10.5"
        fill="var(--ink-3)"
        font-family="var(--font-mono)">{tick === 0 ? '0' : formatDuration(tick)}</text
      >
    {/each}
  </svg>
</div>
