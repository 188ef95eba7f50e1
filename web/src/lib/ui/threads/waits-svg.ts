import type { ThreadDump, ThreadFrame } from '@tromix/core/threads/model';
import type { WaitsPicture } from '@tromix/core/threads/picture';
import type { WaitsFor } from '@tromix/core/threads/waits-for';
import { xmlText } from '@tromix/core/text/xml-text';
import { barWords, boxWords, cyclePath, linkPath } from './waits-words';

/** The picture as SVG of its own, in the colours of paper. */
export function waitsSvg(
  frames: readonly ThreadFrame[],
  dump: ThreadDump,
  waits: WaitsFor,
  picture: WaitsPicture
): string {
  const parts = [
    `<svg xmlns="http://www.w3.org/2000/svg" width="${picture.width}" height="${picture.height}" font-family="monospace" font-size="11">`,
    `<rect width="100%" height="100%" fill="#fbfaf5"/>`
  ];
  for (const bar of picture.bars) {
    const { name } = barWords(dump, waits, bar);
    parts.push(
      `<path d="${linkPath(picture, bar)}" fill="none" stroke="#9f3550"/>`,
      `<rect x="${bar.x - 2}" y="${bar.top}" width="4" height="${bar.bottom - bar.top}" fill="#9f3550"/>`,
      `<text x="${bar.x - 2}" y="${bar.top - 5}" fill="#9f3550">${xmlText(name)}</text>`
    );
  }
  for (const cycle of picture.cycles)
    parts.push(`<path d="${cyclePath(picture, cycle)}" fill="none" stroke="#b3261e" stroke-width="1.5"/>`);
  for (const box of picture.boxes) {
    const { name, detail } = boxWords(frames, dump, box);
    const dark = box.kind === 'root' || box.kind === 'cycle';
    const fill = box.kind === 'nobody' ? 'none' : dark ? '#1b2a32' : '#f3dfcc';
    const ink = dark ? '#fbfaf5' : '#1b2a32';
    parts.push(
      `<rect x="${box.x}" y="${box.y}" width="${box.width}" height="${box.height}" rx="2" fill="${fill}" stroke="${box.kind === 'nobody' ? '#4d5c63' : 'none'}"/>`,
      `<text x="${box.x + 7}" y="${box.y + 13}" fill="${ink}">${xmlText(name)}</text>`,
      detail
        ? `<text x="${box.x + 7}" y="${box.y + (box.height > 30 ? 29 : 24)}" fill="${ink}" font-size="9.5">${xmlText(detail)}</text>`
        : ''
    );
  }
  return `${parts.join('\n')}\n</svg>\n`;
}
