import { onCLS, onFCP, onINP, onLCP, onTTFB, type Metric } from 'web-vitals';
import { selectorOf } from './selector';

/** A vital as it is told: its value, and the element it happened at. */
export interface ToldVital {
  name: Metric['name'];
  value: number;
  element: string;
  /** What the largest paint shows; '' for text. */
  url: string;
}

/** As far as entries are read here; no library of types has all of it yet. */
interface Entry extends PerformanceEntry {
  element?: Element | null;
  url?: string;
  target?: Node | null;
  value?: number;
  sources?: { node: Node | null }[];
}

/** Follows the vitals: TTFB and FCP come once, the largest paint as far as it has come, the others as the page is left. */
export function watchVitals(add: (vital: ToldVital) => void): void {
  const tell = ({ name, value, entries }: Metric): void => {
    const entry = happenedAt(name, entries);
    const [source] = entry?.sources ?? [];
    add({
      name,
      value,
      element: selectorOf(entry?.element ?? entry?.target ?? source?.node),
      url: entry?.url ?? ''
    });
  };
  onTTFB(tell);
  onFCP(tell);
  onLCP(tell, { reportAllChanges: true });
  onINP(tell);
  onCLS(tell);
}

/** The entry that tells most: of shifts the greatest, else the last. */
function happenedAt(name: Metric['name'], entries: readonly Entry[]): Entry | undefined {
  if (name !== 'CLS') return entries[entries.length - 1];
  return entries.reduce<Entry | undefined>(
    (most, entry) => ((entry.value ?? 0) > (most?.value ?? 0) ? entry : most),
    undefined
  );
}
