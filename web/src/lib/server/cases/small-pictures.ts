import { ACCOUNTS, type Ledger } from '@tromix/core/trace/account';
import { LOOKS } from '$lib/ui/ledger/accounts';
import styles from '../../../app.css?raw';

// Pictures of a first draft, made where there is no page: as small as a word, on light paper.

/** Colours of light paper, by their token: those of the style sheet, which stand first in it. */
const PAPER = new Map(
  [...styles.matchAll(/(--[\w-]+):\s*(#[0-9a-f]{3,8});/gi)]
    .reverse()
    .map(([, token, colour]) => [token, colour])
);
const colourOf = (token: string): string => PAPER.get(token.replace(/^var\(|\)$/g, '')) ?? 'none';

const svg = (width: number, height: number, content: string): string =>
  `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 ${width} ${height}">${content}</svg>`;

/** Where the time of one request went, as one bar. @param ledger nanoseconds */
export function ledgerPicture(ledger: Ledger): string {
  const [width, height] = [260, 14];
  const sum = ACCOUNTS.reduce((all, account) => all + ledger[account], 0);
  if (sum <= 0) return '';
  let x = 0;
  const parts = ACCOUNTS.filter((account) => ledger[account] > 0).map((account) => {
    const wide = (ledger[account] / sum) * width;
    const part = `<rect x="${x.toFixed(2)}" width="${wide.toFixed(2)}" height="${height}" fill="${colourOf(LOOKS[account].flat)}"/>`;
    x += wide;
    return part;
  });
  return svg(width, height, parts.join(''));
}

/** Values over time as a line from 0; stretches without one are left open. @param values NaN for none */
export function linePicture(values: readonly number[]): string {
  const [width, height, pad] = [260, 44, 3];
  const most = Math.max(...values.filter(Number.isFinite));
  if (values.length < 2 || !(most > 0)) return '';
  const points = values.map((value, i): [number, number] => [
    (i / (values.length - 1)) * width,
    height - pad - (value / most) * (height - 2 * pad)
  ]);
  const path = points
    .map(([x, y], i) =>
      Number.isNaN(y)
        ? ''
        : `${i === 0 || Number.isNaN(points[i - 1][1]) ? 'M' : 'L'}${x.toFixed(1)} ${y.toFixed(1)}`
    )
    .join('');
  return svg(
    width,
    height,
    `<rect width="${width}" height="${height}" fill="${colourOf('--sheet')}"/><path d="M0 ${height - pad}H${width}" stroke="${colourOf('--rule')}"/><path d="${path}" fill="none" stroke="${colourOf('--steer')}" stroke-width="1.6"/>`
  );
}
