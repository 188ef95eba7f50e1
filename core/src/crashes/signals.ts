/** A signal that ends a process unless it is handled. */
interface Signal {
  name: string;
  /** On Linux for x86 and ARM; 0 where it differs between systems. */
  number: number;
  meaning: string;
}

/**
 * Signals whose default action ends the process, with their meaning (POSIX.1-2017, `<signal.h>`). POSIX fixes the numbers of SIGHUP, SIGINT, SIGQUIT, SIGABRT, SIGKILL, SIGALRM and
 * SIGTERM (XSI, `kill`); the others are those of Linux (signal(7)).
 */
export const SIGNALS: readonly Signal[] = [
  { name: 'SIGHUP', number: 1, meaning: 'its terminal was closed' },
  { name: 'SIGINT', number: 2, meaning: 'it was interrupted from the terminal' },
  { name: 'SIGQUIT', number: 3, meaning: 'it was told to quit from the terminal' },
  { name: 'SIGILL', number: 4, meaning: 'it ran an instruction that does not exist' },
  { name: 'SIGTRAP', number: 5, meaning: 'it ran into a breakpoint' },
  { name: 'SIGABRT', number: 6, meaning: 'it gave up by itself' },
  { name: 'SIGBUS', number: 7, meaning: 'it used memory that is not there' },
  { name: 'SIGFPE', number: 8, meaning: 'an arithmetic operation went wrong' },
  { name: 'SIGKILL', number: 9, meaning: 'somebody, or the kernel, killed it' },
  { name: 'SIGUSR1', number: 10, meaning: 'another process sent a signal of its own' },
  { name: 'SIGSEGV', number: 11, meaning: 'it used memory that is not its own' },
  { name: 'SIGUSR2', number: 12, meaning: 'another process sent a signal of its own' },
  { name: 'SIGPIPE', number: 13, meaning: 'it wrote where nobody reads any more' },
  { name: 'SIGALRM', number: 14, meaning: 'its alarm clock went off' },
  { name: 'SIGTERM', number: 15, meaning: 'it was asked to end' },
  { name: 'SIGXCPU', number: 24, meaning: 'it used more CPU than it may' },
  { name: 'SIGXFSZ', number: 25, meaning: 'it wrote a larger file than it may' },
  { name: 'SIGVTALRM', number: 26, meaning: 'its alarm clock went off' },
  { name: 'SIGPROF', number: 27, meaning: 'the alarm clock of a profiler went off' },
  { name: 'SIGPOLL', number: 29, meaning: 'something it waited for could be read or written' },
  { name: 'SIGSYS', number: 31, meaning: 'it asked the kernel for what it may not' }
];

/** Asked to end, by a person or by what runs it: that is no failure. */
const ASKED = ['SIGHUP', 'SIGINT', 'SIGTERM'];
export const wasAskedToEnd = (signal: string): boolean => ASKED.includes(signal);

export const signalMeaning = (name: string): string =>
  SIGNALS.find((one) => one.name === name)?.meaning ?? '';

/** The signal an exit status stands for: a shell reports 128 and the number of the signal (POSIX, Shell Command Language, 2.8.2); '' for none. */
export const signalOfExit = (code: number): string =>
  code > 128 ? (SIGNALS.find(({ number }) => number === code - 128)?.name ?? '') : '';

/** What an exit status says of itself (POSIX, Shell Command Language, 2.8.2; Node.js documentation, "Exit codes"); '' for one that says nothing. */
export function exitMeaning(code: number, runtime: string): string {
  if (code === 126) return 'the command is no program';
  if (code === 127) return 'there is no such command';
  const signal = signalOfExit(code);
  if (signal) return `${signal}: ${signalMeaning(signal)}`;
  return runtime.startsWith('Node.js') ? (NODE_EXITS[code] ?? '') : '';
}

const NODE_EXITS: Record<number, string> = {
  1: 'an exception that nobody caught',
  5: 'V8 gave up',
  6: 'the handler of uncaught exceptions is no function',
  7: 'the handler of uncaught exceptions threw one itself',
  9: 'an option or argument that is not known',
  10: 'Node.js could not start',
  12: 'the inspector’s address is not possible',
  13: 'it waited at its top level for what never came'
};
