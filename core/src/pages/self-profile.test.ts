import { describe, expect, it } from 'vitest';
import { readV8CpuProfile } from '../profile/v8-cpu';
import { v8ProfileOf } from './self-profile';

/** The example of the draft's own kind: `main` calls `draw`; a sample in which no script ran. */
const TRACE = {
  resources: ['https://quay.example/app.js?v=1'],
  frames: [
    { name: 'main', resourceId: 0, line: 3, column: 1 },
    { name: 'draw', resourceId: 0, line: 88, column: 5 }
  ],
  stacks: [{ frameId: 0 }, { frameId: 1, parentId: 0 }],
  samples: [
    { timestamp: 1000, stackId: 0 },
    { timestamp: 1010, stackId: 1 },
    { timestamp: 1030, stackId: 1 },
    { timestamp: 1040 }
  ]
};

describe('a profile that a page made of itself', () => {
  it('is a CPU profile', () => {
    const { json, startMs } = v8ProfileOf(JSON.stringify(TRACE));
    expect(startMs).toBe(1000);
    const { profile } = readV8CpuProfile(new TextEncoder().encode(json));
    const named = [...profile.sampleNode].map((node) => profile.frames[profile.nodeFrame[node]].name);
    expect(named).toEqual(['main', 'draw', 'draw', '(idle)']);
    const draw = profile.frames.find(({ name }) => name === 'draw')!;
    expect(draw.line).toBe(88);
    expect(draw.file).not.toContain('v=1');
    expect([...profile.sampleWeight].slice(0, 3)).toEqual([10e6, 20e6, 10e6]);
  });

  it.each([
    ['no JSON', '{', /no JSON/],
    ['no samples', JSON.stringify({ ...TRACE, samples: [] }), /no samples/],
    ['a stack on itself', JSON.stringify({ ...TRACE, stacks: [{ frameId: 0, parentId: 0 }] }), /a stack/],
    ['a frame it lacks', JSON.stringify({ ...TRACE, stacks: [{ frameId: 7 }] }), /a stack/],
    [
      'a script it lacks',
      JSON.stringify({ ...TRACE, resources: [], frames: [{ name: 'a', resourceId: 4 }] }),
      /a frame/
    ],
    ['a stack it lacks', JSON.stringify({ ...TRACE, samples: [{ timestamp: 1, stackId: 9 }] }), /a sample/],
    ['a time that is none', JSON.stringify({ ...TRACE, samples: [{ timestamp: 'x' }] }), /Expected a profile/]
  ])('is refused with %s', (_, content, words) => {
    expect(() => v8ProfileOf(content)).toThrow(words);
  });
});
