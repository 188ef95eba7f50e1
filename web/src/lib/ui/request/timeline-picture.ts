import { formatCount, formatDuration, formatShare } from '@tromix/core/text/format';
import type { TimelineRow } from '@tromix/core/trace/rows';
import { LOOKS } from '$lib/ui/ledger/accounts';
import { xmlText } from '@tromix/core/text/xml-text';
import { combPath, penPath, rowTops, SPAN_HEIGHT } from './pen-line';
import { shortStatement } from '$lib/ui/calls/short-statement';
import { latestEnd, rowLabel, type RequestModel } from './request-model';
import { roundTicks } from './round-ticks';

const WIDTH = 1200;
const NAME = 420;
const HEAD = 34;

/**
 * The timeline as it is folded now, as an SVG file that stands alone.
 * @param colourOf the plain colour of a token such as `var(--ink)`.
 */
export function timelinePicture(
  model: RequestModel,
  rows: readonly TimelineRow[],
  rowOf: Int32Array,
  colourOf: (token: string) => string
): string {
  const { tree } = model.trace;
  const tops = rowTops(rows);
  const from = tree.start[model.root];
  const until = latestEnd(model);
  const lane = WIDTH - NAME - 16;
  const x = (ns: number): number => ((ns - from) / Math.max(1, until - from)) * lane;
  const ink = colourOf('var(--ink)');
  const text = (at: number, y: number, content: string, size = 12, fill = ink): string =>
    `<text x="${at}" y="${y}" font-size="${size}" fill="${fill}">${xmlText(content)}</text>`;
  const parts: string[] = [];
  for (const tick of roundTicks(until - from, 8)) {
    const at = NAME + x(from + tick);
    parts.push(
      `<path d="M${at} ${HEAD - 6}V${HEAD + tops[rows.length]}" stroke="${colourOf('var(--grid)')}"/>`,
      text(at + 3, HEAD - 10, tick === 0 ? '0' : formatDuration(tick), 10, colourOf('var(--ink-3)'))
    );
  }
  rows.forEach((row, i) => {
    const y = HEAD + tops[i];
    const { span, account } = tree.nodes[row.node];
    if (row.kind === 'process') {
      parts.push(
        text(8, y + 15, `${span.resource.service} · ${span.resource.host}`, 11, colourOf('var(--ink-2)'))
      );
      return;
    }
    const nodes = row.kind === 'comb' ? row.members : [row.node];
    const booked = nodes.reduce((sum, node) => sum + (model.request.booked.get(node) ?? 0), 0);
    const name = shortStatement(rowLabel(model.trace.tree, row));
    const label = `${LOOKS[account].letter}  ${name.length > 44 ? `${name.slice(0, 43)}…` : name}`;
    const count = row.kind === 'comb' ? ` × ${formatCount(row.members.length)}` : '';
    parts.push(
      text(12 + Math.min(row.depth, 10) * 12, y + 17, label + count),
      `<text x="${NAME - 8}" y="${y + 17}" font-size="11" text-anchor="end" fill="${ink}">${xmlText(formatShare(booked / Math.max(1, model.request.durationNs)))}</text>`
    );
    const fill = colourOf(LOOKS[account].flat);
    if (row.kind === 'comb') {
      const teeth = combPath(nodes, tree.start, tree.end, x);
      parts.push(`<path transform="translate(${NAME} ${y + 6})" d="${teeth}" fill="${fill}"/>`);
    } else {
      const width = Math.max(2, x(tree.end[row.node]) - x(tree.start[row.node]));
      parts.push(
        `<rect x="${NAME + x(tree.start[row.node])}" y="${y + 6}" width="${width}" height="12" rx="2" fill="${fill}" opacity="${tree.reported.children[row.node].length > 0 && row.open ? 0.4 : 1}"/>`
      );
    }
  });
  const pen = penPath(model.request.stretches, rowOf, tops, x);
  const height = HEAD + tops[rows.length] + SPAN_HEIGHT / 2;
  const { service, host, release } = tree.nodes[model.root].span.resource;
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${WIDTH}" height="${height}" viewBox="0 0 ${WIDTH} ${height}" font-family="monospace"><rect width="100%" height="100%" fill="${colourOf('var(--sheet)')}"/>${text(8, 16, `${model.request.endpoint} · ${formatDuration(model.request.durationNs)} · ${service} ${release} on ${host}`, 13)}${parts.join('')}<path transform="translate(${NAME} ${HEAD})" d="${pen}" fill="none" stroke="${colourOf('var(--pen)')}" stroke-width="2"/></svg>`;
}
