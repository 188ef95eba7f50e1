import { execFileSync, spawnSync } from 'node:child_process';
import os from 'node:os';
import { describe, expect, it } from 'vitest';
import { exitMeaning, signalMeaning, signalOfExit, SIGNALS, wasAskedToEnd } from './signals';

/** Signals whose default action ends a process, with or without more (POSIX.1-2017, XBD, `<signal.h>`, actions T and A; from memory). */
const POSIX =
  'ABRT ALRM BUS FPE HUP ILL INT KILL PIPE POLL PROF QUIT SEGV SYS TERM TRAP USR1 USR2 VTALRM XCPU XFSZ'.split(
    ' '
  );
/** Numbers that POSIX itself gives (XCU, `kill`, option -l and the XSI list; from memory). */
const POSIX_NUMBERS = { SIGHUP: 1, SIGINT: 2, SIGQUIT: 3, SIGABRT: 6, SIGKILL: 9, SIGALRM: 14, SIGTERM: 15 };

describe('signals', () => {
  it('are those of POSIX that end a process, each with a meaning', () => {
    expect(SIGNALS.map(({ name }) => name).sort()).toEqual(POSIX.map((name) => `SIG${name}`).sort());
    for (const { name } of SIGNALS) expect(signalMeaning(name)).not.toBe('');
    expect(signalMeaning('SIGCHLD')).toBe('');
  });

  it('have the numbers that POSIX fixes, and those of this system', () => {
    for (const [name, number] of Object.entries(POSIX_NUMBERS))
      expect(SIGNALS.find((one) => one.name === name)!.number).toBe(number);
    if (os.platform() !== 'linux') return;
    const known = os.constants.signals as Record<string, number>;
    for (const { name, number } of SIGNALS) expect([name, known[name]]).toEqual([name, number]);
  });

  it('stand for exit codes as a shell gives them', () => {
    for (const name of ['SEGV', 'KILL', 'ABRT', 'TERM']) {
      const { status } = spawnSync('sh', ['-c', `sh -c 'kill -${name} $$'; exit $?`]);
      expect(signalOfExit(status!)).toBe(`SIG${name}`);
    }
    expect(signalOfExit(1)).toBe('');
    expect(signalOfExit(128)).toBe('');
    expect(signalOfExit(255)).toBe('');
  });

  it('exit codes mean what shells and Node.js say they do', () => {
    expect(() => execFileSync('sh', ['-c', 'no-such-command'], { stdio: 'ignore' })).toThrow();
    expect(exitMeaning(spawnSync('sh', ['-c', 'no-such-command']).status!, '')).toBe(
      'there is no such command'
    );
    expect(exitMeaning(spawnSync('sh', ['-c', '/']).status!, '')).toBe('the command is no program');
    expect(exitMeaning(139, '')).toMatch(/^SIGSEGV: /);
    expect(exitMeaning(3, '')).toBe('');
    const bad = spawnSync(process.execPath, ['--no-such-option']).status!;
    expect(exitMeaning(bad, 'Node.js v20')).toBe('an option or argument that is not known');
    const thrown = spawnSync(process.execPath, ['-e', 'throw 1']).status!;
    expect(exitMeaning(thrown, 'Node.js v20')).toBe('an exception that nobody caught');
    expect(wasAskedToEnd('SIGTERM')).toBe(true);
    expect(wasAskedToEnd('SIGKILL')).toBe(false);
  });
});
