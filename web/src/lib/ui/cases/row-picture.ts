import { xmlText } from '@tromix/core/text/xml-text';
import { plainColour } from '$lib/ui/chart/theme';
import { pinnedPicture, standAlone } from './picture';

const ROW = 'tr, [role="row"]';
const TABLE = 'table, [role="table"], [role="grid"], [role="treegrid"]';
const CELL = 'td, th, [role="cell"], [role="gridcell"], [role="columnheader"]';
/** Rows that stand around the pinned one, on each side: it is read against them. */
const AROUND = 2;
const MAX_WIDTH = 1200;

/** One row of a picture, and where it is drawn. */
interface Line {
  row: Element;
  y: number;
  height: number;
}

/**
 * A row of a table as it stands on the screen, with the heads of the columns and its neighbours, as an SVG that stands alone; '' where nothing of it is drawn.
 * @param inside the row, or anything in it
 */
export function pictureOfRow(inside: Element): string {
  const row = inside.closest(ROW);
  const table = row?.closest(TABLE);
  if (!row || !table) return '';
  const rows = [...table.querySelectorAll(ROW)]
    .filter((one) => one.closest(TABLE) === table)
    .sort((a, b) => a.getBoundingClientRect().top - b.getBoundingClientRect().top);
  const heads = rows.filter(isHead).slice(0, 1);
  const plain = rows.filter((one) => !isHead(one));
  const at = plain.indexOf(row);
  const lines = stacked([...heads, ...plain.slice(Math.max(0, at - AROUND), at + AROUND + 1)]);
  const last = lines.at(-1);
  if (!last) return '';
  const box = row.getBoundingClientRect();
  const [width, height] = [Math.min(MAX_WIDTH, Math.round(box.width)), Math.ceil(last.y + last.height)];
  const parts = lines.map((line) => drawnLine(line, box.left, width, line.row === row));
  return pinnedPicture(
    `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 ${width} ${height}" font-family="system-ui, sans-serif">` +
      `<rect width="100%" height="100%" fill="${plainColour('var(--sheet)')}"/>${parts.join('')}</svg>`
  );
}

const isHead = (row: Element): boolean =>
  row.querySelector('[role="columnheader"], th[scope="col"], thead th') !== null ||
  row.closest('thead') !== null;

/** Rows below each other without the room that lies between them on the screen, where rows may be out of sight. */
function stacked(rows: Element[]): Line[] {
  let y = 0;
  return rows.map((row) => {
    const { height } = row.getBoundingClientRect();
    const line = { row, y, height };
    y += height;
    return line;
  });
}

function drawnLine({ row, y, height }: Line, left: number, width: number, chosen: boolean): string {
  const { top } = row.getBoundingClientRect();
  const cells = [...row.querySelectorAll(CELL)].map((cell) => drawnCell(cell, left, top - y));
  const ground = chosen
    ? `<rect y="${short(y)}" width="100%" height="${short(height)}" fill="${plainColour('var(--pen-soft)')}"/>`
    : '';
  const rule = `<path d="M0 ${short(y + height - 0.5)}H${width}" stroke="${plainColour('var(--rule)')}"/>`;
  return ground + cells.join('') + rule;
}

/** What a cell shows, cut at its edges as on the screen. */
function drawnCell(cell: Element, left: number, top: number): string {
  const box = cell.getBoundingClientRect();
  const content = drawn(cell, box.left, box.top);
  return content === '' || box.width < 1
    ? ''
    : `<svg x="${short(box.left - left)}" y="${short(box.top - top)}" width="${short(box.width)}" height="${short(box.height)}">${content}</svg>`;
}

/** An element and what is in it: its colour as a rectangle, its drawings, its words at their places. */
function drawn(element: Element, left: number, top: number): string {
  if (element.matches('.sr-only, [aria-haspopup="menu"]')) return '';
  const box = element.getBoundingClientRect();
  if (element instanceof SVGSVGElement)
    return `<svg x="${short(box.left - left)}" y="${short(box.top - top)}" width="${short(box.width)}" height="${short(box.height)}">${standAlone(element)}</svg>`;
  const style = getComputedStyle(element);
  const fill = element.matches(CELL) ? '' : fillOf(style);
  const ground = fill
    ? `<rect x="${short(box.left - left)}" y="${short(box.top - top)}" width="${short(box.width)}" height="${short(box.height)}" fill="${fill}" opacity="${style.opacity}"/>`
    : '';
  const inner = [...element.childNodes].map((child) =>
    child instanceof Element
      ? drawn(child, left, top)
      : child instanceof Text
        ? drawnText(child, style, left, top)
        : ''
  );
  return ground + inner.join('');
}

/** The colour an element is filled with; of a pattern its first one. '' for none. */
function fillOf({ backgroundColor, backgroundImage }: CSSStyleDeclaration): string {
  const [pattern] = /rgba?\([^)]*\)/.exec(backgroundImage) ?? [''];
  if (pattern) return pattern;
  return /, 0\)$|\/ 0\)$|^transparent$/.test(backgroundColor) ? '' : backgroundColor;
}

function drawnText(text: Text, style: CSSStyleDeclaration, left: number, top: number): string {
  const words = text.data.replace(/\s+/g, ' ').trim();
  if (words === '') return '';
  const range = document.createRange();
  range.selectNodeContents(text);
  const box = range.getBoundingClientRect();
  const mono = /mono|code/i.test(style.fontFamily) ? ' font-family="ui-monospace, monospace"' : '';
  const right = style.textAlign === 'right' || style.textAlign === 'end';
  const x = short((right ? box.right : box.left) - left);
  // Whatever font it is shown with, it takes the room it had.
  const room = ` textLength="${short(box.width)}" lengthAdjust="spacingAndGlyphs"`;
  return (
    `<text x="${x}" y="${short(box.bottom - top - box.height * DESCENT)}" font-size="${parseFloat(style.fontSize)}" font-weight="${style.fontWeight}"` +
    `${mono}${room}${right ? ' text-anchor="end"' : ''} fill="${style.color}">${xmlText(words)}</text>`
  );
}

/** Share of a line that lies under its letters. */
const DESCENT = 0.25;

const short = (value: number): string => String(Math.round(value * 10) / 10);
