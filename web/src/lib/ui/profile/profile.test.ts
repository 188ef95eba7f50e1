import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { FlameLayout } from '@tromix/core/profile/flame-layout';
import type { Frame, FrameKind } from '@tromix/core/profile/model';
import { flameSvg } from './flame-picture';
import type { FlameView } from './flame-painter';
import { boxAt, clampZoom, firstVisible, indexRows, trunkRows, zoomAt } from './flame-view';
import { originName } from './origin-names';
import { placeOf } from './profile-reading';
import { SHOWS } from './shows';
import { actWords, frameIndex, nameOf, PROFILE_PARAMS, shapingOf, type ProfileState } from './profile-state';

const frame = (name: string, kind: FrameKind = 'app', file = 'berths/plan.ts', line = 3): Frame => ({
  name,
  file,
  line,
  column: 1,
  package: kind === 'dependency' ? 'tide-tables' : '',
  kind
});

const name = fc.stringMatching(/^[a-zA-Z0-9~<>&/:. _⚓]{1,12}$/);
const states: fc.Arbitrary<ProfileState> = fc.record({
  show: fc.constantFrom(...SHOWS),
  cut: fc.option(fc.record({ from: fc.nat(1e9), to: fc.integer({ min: 1e9 + 1, max: 2e9 }) })),
  measure: fc.oneof(fc.constant(''), name),
  thread: fc.integer({ min: -1, max: 40 }),
  labels: fc.array(fc.record({ key: name.map((key) => key.replaceAll('~', '-')), value: name }), {
    maxLength: 3
  }),
  idle: fc.boolean(),
  even: fc.boolean(),
  foldRecursion: fc.boolean(),
  acts: fc.array(
    fc.record({
      act: fc.constantFrom('hide' as const, 'fold' as const, 'only' as const),
      by: fc.constantFrom('frame' as const, 'package' as const, 'kind' as const),
      name
    }),
    { maxLength: 4 }
  ),
  root: fc.oneof(fc.constant(''), name),
  of: fc.oneof(fc.constant(''), name),
  file: fc.oneof(fc.constant(''), name),
  find: fc.oneof(fc.constant(''), name),
  chosen: fc.oneof(fc.constant(''), name),
  zoom: fc
    .record({ from: fc.integer({ min: 0, max: 411 }), wide: fc.integer({ min: 1, max: 100 }) })
    .map(({ from, wide }) => ({ from: from / 512, to: (from + wide) / 512 })),
  during: fc.oneof(fc.constant(''), name)
});

describe('what is shown of a profile', () => {
  it('comes back from the address it was written to, with what else stood there', () => {
    fc.assert(
      fc.property(states, (state) => {
        const query = PROFILE_PARAMS.write(new URLSearchParams('last=24h&host=quay-2'), state);
        expect(PROFILE_PARAMS.read(new URLSearchParams(query.toString()))).toEqual(state);
        expect([query.get('last'), query.get('host')]).toEqual(['24h', 'quay-2']);
      })
    );
  });

  it('is the plain picture where an address says nothing, or nonsense', () => {
    const plain = PROFILE_PARAMS.read(new URLSearchParams());
    expect(PROFILE_PARAMS.write(new URLSearchParams(), plain).toString()).toBe('');
    const nonsense =
      'show=none&cutFrom=9&cutTo=3&thread=-4&act=burn~frame~a&act=hide~frame~&act=hide~planet~x';
    expect(PROFILE_PARAMS.read(new URLSearchParams(nonsense))).toEqual(plain);
  });

  it('asks for frames by name, and for nothing where this profile has no such frame', () => {
    const frames = [frame('plan'), frame('plan', 'app', 'berths/other.ts'), frame('open', 'native', '', 0)];
    const index = frameIndex(frames);
    const state = PROFILE_PARAMS.read(new URLSearchParams());
    const shaping = shapingOf(
      {
        ...state,
        root: nameOf(frames[1]),
        acts: [
          { act: 'hide', by: 'frame', name: nameOf(frames[2]) },
          { act: 'only', by: 'frame', name: 'gone x.ts:1:1' },
          { act: 'fold', by: 'kind', name: 'runtime' },
          { act: 'fold', by: 'kind', name: 'planet' },
          { act: 'hide', by: 'package', name: 'tide-tables' }
        ]
      },
      index
    );
    expect(shaping).toEqual({
      root: 1,
      foldRecursion: false,
      acts: [
        { act: 'hide', target: { by: 'frame', frame: 2 } },
        { act: 'fold', target: { by: 'kind', kind: 'runtime' } },
        { act: 'hide', target: { by: 'package', package: 'tide-tables' } }
      ]
    });
  });

  it('says each act in words, without the place of a function', () => {
    expect(actWords({ act: 'hide', by: 'frame', name: 'plan berths/plan.ts:3:1' })).toBe(
      'without stacks through plan'
    );
    expect(actWords({ act: 'fold', by: 'kind', name: 'dependency' })).toBe(
      'folded into its caller: all dependencies'
    );
    expect(actWords({ act: 'only', by: 'package', name: 'tide-tables' })).toBe(
      'only stacks through tide-tables'
    );
  });
});

describe('whose code it is', () => {
  it('is said by the package, or by the kind', () => {
    expect(originName(frame('a', 'dependency'))).toBe('tide-tables');
    expect(originName(frame('a', 'gc'))).toBe('garbage collector');
  });
  it('and where it stands by the end of its path', () => {
    expect(placeOf(frame('a', 'app', 'file:///srv/quillhaven/berths/plan.ts', 28))).toBe('berths/plan.ts:28');
    expect(placeOf(frame('a', 'dependency', 'file:///srv/node_modules/tide-tables/lib/x.js', 5))).toBe(
      'tide-tables x.js:5'
    );
    expect(placeOf(frame('a', 'runtime', 'node:internal/fs/utils', 0))).toBe('node:fs/utils');
    expect([placeOf(frame('a', 'native', '', 0)), placeOf(frame('a', 'gc', '', 0))]).toEqual(['native', '']);
    expect(placeOf(frame('a', 'app', '', 3))).toBe('no address:3');
  });
});

/** Rows of boxes side by side, each as [x, width]; an empty row holds the name of a thread. */
function layoutOf(rows: [number, number][][]): FlameLayout {
  const boxes = rows.flatMap((row, depth) => row.map(([x, width]) => ({ x, width, depth })));
  return {
    node: Int32Array.from(boxes.keys()),
    depth: Int32Array.from(boxes, ({ depth }) => depth),
    x: Float64Array.from(boxes, ({ x }) => x),
    width: Float64Array.from(boxes, ({ width }) => width),
    parent: new Int32Array(boxes.length).fill(-1),
    rows: rows.length
  };
}

describe('boxes of a picture', () => {
  const rows = fc.array(
    fc.array(fc.double({ min: 0.01, max: 1, noNaN: true }), { maxLength: 6 }).map((widths) => {
      const sum = widths.reduce((all, one) => all + one, 0) * 1.2 || 1;
      let x = 0;
      return widths.map((width): [number, number] => {
        const at = x;
        x += width / sum + 0.01;
        return [at, width / sum];
      });
    }),
    { minLength: 1, maxLength: 6 }
  );

  it('are found under a point as a look at every box finds them, also where a row has none', () => {
    fc.assert(
      fc.property(rows, fc.double({ min: 0, max: 1, noNaN: true }), fc.nat(7), (made, x, depth) => {
        const layout = layoutOf(made);
        const index = indexRows(layout);
        const naive = [...layout.node.keys()].find(
          (box) => layout.depth[box] === depth && layout.x[box] <= x && layout.x[box] + layout.width[box] > x
        );
        expect(boxAt(layout, index, x, depth)).toBe(naive ?? -1);
      })
    );
  });

  it('are drawn from the first that reaches into view', () => {
    fc.assert(
      fc.property(rows, fc.double({ min: 0, max: 1, noNaN: true }), (made, from) => {
        const layout = layoutOf(made);
        const index = indexRows(layout);
        for (let depth = 0; depth < layout.rows; depth++) {
          const first = firstVisible(layout, index, depth, from);
          for (let box = index.start[depth]; box < index.start[depth + 1]; box++)
            expect(box >= first).toBe(layout.x[box] + layout.width[box] > from);
        }
      })
    );
  });

  it('that nearly every stack shares are a trunk, up to the last of them, or to one that burns', () => {
    const chain = (widths: number[]): ReturnType<typeof layoutOf> =>
      layoutOf(widths.map((width): [number, number][] => [[0, width]]));
    const layout = chain([1, 0.99, 0.98, 0.975, 0.9, 0.5]);
    layout.parent.set([-1, 0, 1, 2, 3, 4]);
    const rowsOf = (own: number): number => trunkRows(layout, indexRows(layout), (node) => node >= own);
    expect(rowsOf(9)).toBe(3);
    expect(rowsOf(4)).toBe(3);
    // Two rows are not worth a line.
    expect(rowsOf(3)).toBe(0);
  });

  it('stay inside the whole however one zooms, and the point zoomed at stays where it is', () => {
    const part = fc.double({ min: 0, max: 1, noNaN: true });
    fc.assert(
      fc.property(part, part, part, fc.double({ min: 0.2, max: 4, noNaN: true }), (a, b, within, factor) => {
        const zoom = clampZoom({ from: Math.min(a, b), to: Math.max(a, b) });
        const at = zoom.from + within * (zoom.to - zoom.from);
        const next = zoomAt(zoom, at, factor);
        expect(next.from).toBeGreaterThanOrEqual(0);
        expect(next.to).toBeLessThanOrEqual(1 + 1e-12);
        expect(next.to).toBeGreaterThan(next.from);
        const free = next.from > 0 && next.to < 1 && next.to - next.from > 1e-5 && zoom.to - zoom.from > 1e-5;
        if (free) expect((at - next.from) / (next.to - next.from)).toBeCloseTo(within, 6);
      })
    );
  });
});

describe('the picture as SVG', () => {
  const view: FlameView = {
    layout: layoutOf([
      [],
      [[0, 1]],
      [
        [0, 0.0001],
        [0.2, 0.5]
      ]
    ]),
    nodeFrame: Int32Array.of(0, 1, 2),
    nodeParent: Int32Array.of(-1, 0, 0),
    self: Float64Array.of(0, 10, 50),
    total: Float64Array.of(100, 10, 50),
    sum: 100,
    tookMs: 0,
    bands: [{ row: 0, name: 'pilots <1>' }]
  };
  const frames = [frame('(root)', 'root', '', 0), frame('too narrow'), frame('<script>"&')];

  it('shows whatever names hold as text, with shares that can be read anywhere', () => {
    const svg = flameSvg({ frames }, view);
    expect(svg).not.toContain('<script>');
    expect(svg).toContain('&lt;script&gt;&quot;&amp; berths/plan.ts:3, total 50');
    expect(svg).toContain('pilots &lt;1&gt;');
    expect(svg).not.toContain('too narrow');
    expect(svg.match(/<g><title>/g)).toHaveLength(2);
  });
});
