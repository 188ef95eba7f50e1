import { formatCount } from '@tromix/core/text/format';

const MONO = 'Source Code Pro Variable';
const SANS = 'Instrument Sans Variable';

/** A custom property, or a colour that is none, as the plain colour it stands for now: a picture has no style sheet. */
export function plainColour(value: string): string {
  const name = /var\((--[\w-]+)\)/.exec(value)?.[1];
  return name ? getComputedStyle(document.documentElement).getPropertyValue(name).trim() : value;
}

/** The parts of our charts that are always the same, in the colours of the paper that is shown. */
export function chartTheme() {
  const of = (token: string): string => plainColour(`var(--${token})`);
  const label = { color: of('ink-3'), fontSize: 11, fontFamily: MONO, hideOverlap: true };
  const line = { lineStyle: { color: of('rule') } };
  const split = { show: true, lineStyle: { color: of('grid') } };
  return {
    of,
    /** An axis of values. */
    values: {
      type: 'value' as const,
      axisLine: { show: false },
      axisTick: { show: false },
      axisLabel: { ...label, formatter: formatCount },
      splitLine: split
    },
    /** An axis of time. */
    time: {
      type: 'time' as const,
      axisLine: line,
      axisTick: { show: false },
      axisLabel: label,
      splitLine: split
    },
    /** An axis of classes, one beside the other. */
    classes: {
      type: 'category' as const,
      axisLine: line,
      axisTick: { show: false },
      axisLabel: label,
      splitLine: { show: false }
    },
    tooltip: {
      confine: true,
      backgroundColor: of('sheet'),
      borderColor: of('rule'),
      padding: [4, 8],
      textStyle: { color: of('ink'), fontSize: 12, fontFamily: SANS },
      axisPointer: { lineStyle: { color: of('pen') } }
    }
  };
}
export type ChartTheme = ReturnType<typeof chartTheme>;
