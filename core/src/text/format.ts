const THIN_SPACE = '\u202f';

/** `1 842`: whole thousands set apart by a narrow no-break space. */
export function formatCount(value: number): string {
  if (!Number.isFinite(value)) return '–';
  const [whole, fraction] = String(Math.abs(value)).split('.');
  const grouped = whole.replace(/\B(?=(\d{3})+$)/g, THIN_SPACE);
  return `${value < 0 ? '−' : ''}${grouped}${fraction ? `.${fraction}` : ''}`;
}

const DURATION_UNITS: [number, string][] = [
  [1e9, 's'],
  [1e6, 'ms'],
  [1e3, 'µs']
];

/** Nanoseconds with three significant digits and one unit: `1.21 s`, `84 ms`, `310 µs`, `12 ns`. */
export function formatDuration(ns: number): string {
  if (!Number.isFinite(ns)) return '–';
  const size = Math.abs(ns);
  const sign = ns <= -0.5 ? '−' : '';
  if (size < 1e3) return `${sign}${Math.round(size)} ns`;
  if (size >= 120e9) return sign + formatLong(size);
  // 999.6 µs rounds to 1 000, which belongs to the next unit.
  const unit =
    DURATION_UNITS.find(([factor]) => Number((size / factor).toPrecision(3)) >= 1) ?? DURATION_UNITS[2];
  return `${sign}${significant(size / unit[0])} ${unit[1]}`;
}

/** Two durations as `493 ms to 1.52 s`; as one where they read alike. */
export function formatDurationRange(lowNs: number, highNs: number): string {
  const [low, high] = [formatDuration(lowNs), formatDuration(highNs)];
  return low === high ? low : `${low} to ${high}`;
}

function formatLong(ns: number): string {
  const minutes = ns / 60e9;
  return minutes < 120 ? `${significant(minutes)} min` : `${significant(minutes / 60)} h`;
}

/** Three significant digits, trailing zeros kept off integers, thousands set apart. */
function significant(value: number): string {
  const rounded = Number(value.toPrecision(3));
  if (rounded >= 100) return formatCount(rounded);
  const digits = rounded >= 10 ? 1 : 2;
  return rounded.toFixed(digits).replace(/\.?0+$/, '');
}

/** A share of one named whole: `62 %`; below 10 % one decimal, below 0.1 % said so. */
export function formatShare(share: number): string {
  if (!Number.isFinite(share)) return '–';
  const percent = share * 100;
  if (percent > 0 && percent < 0.1) return `<${THIN_SPACE}0.1${THIN_SPACE}%`;
  const text = percent >= 10 || percent === 0 ? percent.toFixed(0) : percent.toFixed(1).replace(/\.0$/, '');
  return `${text}${THIN_SPACE}%`;
}

const BYTE_UNITS = ['B', 'kB', 'MB', 'GB', 'TB'];

/** Bytes in decimal units with three significant digits: `4.2 MB`. */
export function formatBytes(bytes: number): string {
  let value = bytes;
  let unit = 0;
  while (value >= 999.5 && unit < BYTE_UNITS.length - 1) {
    value /= 1000;
    unit++;
  }
  return `${unit === 0 ? formatCount(value) : significant(value)} ${BYTE_UNITS[unit]}`;
}

/** `1 call`, `214 calls`. */
export function plural(count: number, one: string, many = `${one}s`): string {
  return `${formatCount(count)} ${nounFor(count, one, many)}`;
}

/** The noun of a count, alone: `call`, `calls`. */
export const nounFor = (count: number, one: string, many = `${one}s`): string => (count === 1 ? one : many);

/** A figure with three significant digits: `25.1`, `1 230`. */
export const formatFigure = (value: number): string => formatCount(Number(value.toPrecision(3)));

/** Something per minute: whole from ten on, one decimal below; what would read 0.0 is said to be less than 0.1. */
export function formatRate(perMinute: number): string {
  if (perMinute > 0 && perMinute < 0.05) return '< 0.1';
  return perMinute >= 10 ? formatCount(Math.round(perMinute)) : perMinute.toFixed(1);
}
