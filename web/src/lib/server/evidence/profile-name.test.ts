import { expect, it } from 'vitest';
import { nodeProfileName } from './profile';

// A name as Node.js 20 wrote it for `--cpu-prof`, in the local time of its machine.
it('tells the process and the start of a profile by the name Node.js gives it', () => {
  const { pid, startedAtUs } = nodeProfileName('CPU.20261128.113931.8330.0.001.cpuprofile');
  expect(pid).toBe(8330);
  expect(startedAtUs).toBe(new Date(2026, 10, 28, 11, 39, 31).getTime() * 1000);
  expect(nodeProfileName('slow.cpuprofile')).toEqual({ pid: 0, startedAtUs: null });
});
