import type { Frame } from '@tromix/core/profile/model';
import { formatShare } from '@tromix/core/text/format';
import type { ProfileView } from '$lib/workers/profile.worker';
import { firstVisible, ROW, type RowIndex, type Zoom } from './flame-view';

/** Colours read from the theme once a paint. */
export interface FlamePalette {
  burn: [number, number, number];
  paper: [number, number, number];
  plain: [number, number, number];
  worse: [number, number, number];
  better: [number, number, number];
  sheet: string;
  ink: string;
  rule: string;
  steer: string;
  mono: string;
}

/** What a flame picture needs to know of a view. */
export type FlameView = Pick<
  ProfileView,
  'layout' | 'nodeFrame' | 'nodeParent' | 'self' | 'total' | 'sum' | 'tookMs'
> & { bands?: ProfileView['bands']; closed?: ProfileView['closed'] };

export interface FlamePicture {
  opened: { frames: readonly Frame[] };
  view: FlameView;
  rows: RowIndex;
  zoom: Zoom;
  scrollTop: number;
  width: number;
  height: number;
  /** Frames the search found; null where nothing is searched. */
  found: ReadonlySet<number> | null;
  /** Box that is selected, −1 for none. */
  selected: number;
  hovered: number;
  /** Tint of a node where it does not stand for self time: how far from paper to the colour, −1 to 1 (the sign chooses the colour). */
  tintOf?: (node: number) => number;
  /** Words behind a name where they are not the share of the whole. */
  noteOf?: (node: number) => string;
}

const SHADES = 16;
/** Narrower boxes hold no text. */
const TEXT_FROM_PX = 34;
const SHARE_FROM_PX = 120;
/** Of burning at which the tint is darkest: self time of a box against everything in view. */
const MIN_TINT = 0.1;

/**
 * Paints the part of a flame picture that is in view. Depth of tint is self time: code that burns is dark. Boxes narrower
 * than half a pixel are drawn as one hair for each pixel, so the cost depends on the screen, not on the profile.
 */
export function paintFlame(
  context: CanvasRenderingContext2D,
  picture: FlamePicture,
  palette: FlamePalette,
  ratio: number
): void {
  const { view, opened, rows, zoom, width, height, scrollTop, found, selected, hovered } = picture;
  const { layout } = view;
  context.setTransform(ratio, 0, 0, ratio, 0, 0);
  context.fillStyle = palette.sheet;
  context.fillRect(0, 0, width, height);
  const shades = Array.from({ length: SHADES + 1 }, (_, i) =>
    mix(palette.paper, palette.burn, MIN_TINT + (i / SHADES) * 0.82)
  );
  const scale = width / (zoom.to - zoom.from);
  context.font = `11.5px ${palette.mono}`;
  context.textBaseline = 'middle';
  const firstRow = Math.max(0, Math.floor(scrollTop / ROW));
  const lastRow = Math.min(layout.rows - 1, Math.floor((scrollTop + height) / ROW));
  for (let depth = firstRow; depth <= lastRow; depth++) {
    const y = depth * ROW - scrollTop + 4;
    let drawnTo = -1;
    for (let box = firstVisible(layout, rows, depth, zoom.from); box < rows.start[depth + 1]; box++) {
      const left = (layout.x[box] - zoom.from) * scale;
      if (left >= width) break;
      const right = left + layout.width[box] * scale;
      if (right < drawnTo + 0.5) continue;
      const x = Math.max(0, left, drawnTo);
      const w = Math.max(0.6, Math.min(width, right - 1) - x);
      const node = layout.node[box];
      const dim = found !== null && !found.has(view.nodeFrame[node]);
      context.globalAlpha = dim ? 0.28 : 1;
      context.fillStyle = picture.tintOf
        ? changeTint(palette, picture.tintOf(node))
        : shades[shadeOf(view, node)];
      context.fillRect(x, y, w, ROW - 2);
      if (w >= TEXT_FROM_PX)
        label(
          context,
          opened.frames[view.nodeFrame[node]],
          picture.noteOf?.(node) ?? formatShare(layout.width[box]),
          x,
          y,
          w,
          palette
        );
      drawnTo = x + w;
    }
  }
  context.globalAlpha = 1;
  for (const { row, name } of view.bands ?? []) {
    const y = row * ROW - scrollTop + 4;
    if (y < -ROW || y > height) continue;
    context.fillStyle = palette.rule;
    context.fillRect(0, y + ROW - 3, width, 1);
    context.fillStyle = palette.ink;
    context.fillText(name, 5, y + (ROW - 2) / 2 + 0.5);
  }
  outline(context, picture, hovered, palette.ink, 1, scale);
  outline(context, picture, selected, palette.steer, 2, scale);
}

/** Self share of the box itself, weighted so that only what also matters to the whole gets dark. */
function shadeOf(view: FlameView, node: number): number {
  const own = view.self[node] / (view.total[node] || 1);
  const whole = view.self[node] / (view.sum || 1);
  return Math.round(Math.min(1, own * (0.3 + Math.sqrt(whole) * 1.3)) * SHADES);
}

/** Worse in the alarm's colour, better in the steering one; unchanged stays paper. */
function changeTint(palette: FlamePalette, part: number): string {
  const strength = Math.round(Math.min(1, Math.abs(part)) * SHADES) / SHADES;
  return mix(palette.plain, part > 0 ? palette.worse : palette.better, strength * 0.5);
}

function label(
  context: CanvasRenderingContext2D,
  frame: Frame,
  text: string,
  x: number,
  y: number,
  w: number,
  palette: FlamePalette
): void {
  const CHARACTER = 6.9;
  const room = Math.floor((w - 8) / CHARACTER);
  const name = frame.name.length > room ? `${frame.name.slice(0, Math.max(1, room - 1))}…` : frame.name;
  context.fillStyle = palette.ink;
  context.fillText(name, x + 5, y + (ROW - 2) / 2 + 0.5);
  const after = x + 5 + name.length * CHARACTER + 6;
  if (w < SHARE_FROM_PX || after + text.length * CHARACTER > x + w) return;
  const alpha = context.globalAlpha;
  context.globalAlpha = alpha * 0.65;
  context.fillText(text, after, y + (ROW - 2) / 2 + 0.5);
  context.globalAlpha = alpha;
}

function outline(
  context: CanvasRenderingContext2D,
  picture: FlamePicture,
  box: number,
  colour: string,
  line: number,
  scale: number
): void {
  if (box < 0) return;
  const { layout } = picture.view;
  const left = Math.max(-4, (layout.x[box] - picture.zoom.from) * scale);
  const right = Math.min(picture.width + 4, (layout.x[box] + layout.width[box] - picture.zoom.from) * scale);
  const y = layout.depth[box] * ROW - picture.scrollTop + 4;
  context.strokeStyle = colour;
  context.lineWidth = line;
  context.strokeRect(left + line / 2, y + line / 2, Math.max(1, right - left - 1 - line), ROW - 2 - line);
}

function mix(a: [number, number, number], b: [number, number, number], part: number): string {
  const channel = (i: 0 | 1 | 2): number => Math.round(a[i] + (b[i] - a[i]) * part);
  return `rgb(${channel(0)} ${channel(1)} ${channel(2)})`;
}

/** Reads the theme's colours off the page. */
export function readPalette(): FlamePalette {
  const style = getComputedStyle(document.documentElement);
  const value = (name: string): string => style.getPropertyValue(name).trim();
  const rgb = (hex: string): [number, number, number] =>
    [1, 3, 5].map((at) => parseInt(hex.slice(at, at + 2), 16)) as [number, number, number];
  return {
    burn: rgb(value('--acc-own-code')),
    paper: rgb(value('--paper')),
    plain: rgb(value('--grid')),
    worse: rgb(value('--alarm')),
    better: rgb(value('--steer')),
    sheet: value('--sheet'),
    ink: value('--ink'),
    rule: value('--rule'),
    steer: value('--steer'),
    mono: "'Source Code Pro Variable', monospace"
  };
}
