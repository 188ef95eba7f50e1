import { describe, expect, it } from 'vitest';
import { readFolded } from '../profile/folded';
import { namesInProfile } from '../profile/names';
import { writeJvmDump } from '../testing/jvm-dump';
import { readJvmText } from '../threads/jvm-text';
import { namesInDumps } from '../threads/names';

describe('the names evidence is found by', () => {
  it('are the functions of a profile, the heaviest first, each once', () => {
    const { profile } = readFolded('serve;plan;rank 7\nserve;plan;rank;rank 2\nserve;audit 30\n');
    const names = namesInProfile(profile);
    expect(names[0]).toBe('serve');
    expect(names.indexOf('audit')).toBeLessThan(names.indexOf('rank'));
    expect(new Set(names).size).toBe(names.length);
    expect(names).toHaveLength(4);
  });

  it('are bounded, however many functions there are', () => {
    const lines = Array.from({ length: 5000 }, (_, i) => `main;step${i} ${i + 1}\n`);
    expect(namesInProfile(readFolded(lines.join('')).profile)).toHaveLength(2000);
  });

  it('are the threads of all dumps, without those of the runtime', () => {
    const text =
      writeJvmDump([{ name: 'shift-planner-1' }, { name: 'shift-planner-2' }]) +
      writeJvmDump([{ name: 'shift-planner-1' }, { name: 'late' }], '2026-11-24 09:27:05');
    expect(namesInDumps(readJvmText(text).series)).toEqual(['shift-planner-1', 'shift-planner-2', 'late']);
  });
});
