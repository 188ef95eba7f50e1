import type { Frame } from '@tromix/core/profile/model';
import { formatShare } from '@tromix/core/text/format';
import { xmlText } from '@tromix/core/text/xml-text';
import type { FlameView } from './flame-painter';

const WIDTH = 1200;
const ROW = 18;
const MAX_ROWS = 400;
/** Narrower boxes are left out: nobody could see them. */
const MIN_PX = 0.3;

/** A flame picture as SVG for light paper: every box with its name and share as a title, so that it can be read anywhere. */
export function flameSvg({ frames }: { frames: readonly Frame[] }, view: FlameView): string {
  const { layout } = view;
  const rows = Math.min(MAX_ROWS, layout.rows);
  const boxes: string[] = [];
  for (let box = 0; box < layout.node.length; box++) {
    const width = layout.width[box] * WIDTH;
    if (width < MIN_PX || layout.depth[box] >= rows) continue;
    const node = layout.node[box];
    const { name, file, line } = frames[view.nodeFrame[node]];
    const x = (layout.x[box] * WIDTH).toFixed(2);
    const y = layout.depth[box] * ROW;
    const own = view.self[node] / (view.total[node] || 1);
    const part = 0.1 + Math.min(1, own * (0.3 + Math.sqrt(view.self[node] / (view.sum || 1)) * 1.3)) * 0.8;
    const room = Math.floor((width - 8) / 6.7);
    const label = name.length > room ? `${name.slice(0, Math.max(0, room - 1))}…` : name;
    const title = `${name}${file ? ` ${file}${line > 0 ? `:${line}` : ''}` : ''}, total ${formatShare(view.total[node] / (view.sum || 1))}, self ${formatShare(view.self[node] / (view.sum || 1))}`;
    const text =
      room > 3 ? `<text x="${(Number(x) + 4).toFixed(2)}" y="${y + 12.5}">${xmlText(label)}</text>` : '';
    boxes.push(
      `<g><title>${xmlText(title)}</title><rect x="${x}" y="${y}" width="${Math.max(0.3, width - 0.6).toFixed(2)}" height="${ROW - 1.5}" fill-opacity="${part.toFixed(2)}"/>${text}</g>`
    );
  }
  const names = (view.bands ?? [])
    .filter(({ row }) => row < rows)
    .map(({ row, name }) => `<text x="4" y="${row * ROW + 12.5}">${xmlText(name)}</text>`);
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${WIDTH}" height="${rows * ROW}" viewBox="0 0 ${WIDTH} ${rows * ROW}" font-family="monospace" font-size="11"><rect width="100%" height="100%" fill="#fff"/><g fill="#8a5a2b">${[...names, ...boxes].join('').replaceAll('<text ', '<text fill="#1c2126" fill-opacity="1" ')}</g></svg>\n`;
}

/** Draws an SVG text onto a canvas of twice its size and saves that. */
export async function savePng(name: string, svg: string): Promise<void> {
  const image = new Image();
  const url = URL.createObjectURL(new Blob([svg], { type: 'image/svg+xml' }));
  try {
    image.src = url;
    await image.decode();
    const canvas = document.createElement('canvas');
    canvas.width = image.width * 2;
    canvas.height = image.height * 2;
    canvas.getContext('2d')!.drawImage(image, 0, 0, canvas.width, canvas.height);
    const link = document.createElement('a');
    link.download = name;
    link.href = canvas.toDataURL('image/png');
    link.click();
  } finally {
    URL.revokeObjectURL(url);
  }
}
