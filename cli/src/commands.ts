import type { Define } from './command';

/** Every command, in the order of the help; each is loaded when it is called. */
export const COMMANDS: { name: string; says: string; load: () => Promise<Define> }[] = [
  {
    name: 'serve',
    says: 'serves the application',
    load: async () => (await import('./commands/serve')).defineServe
  },
  {
    name: 'demo',
    says: 'serves it with the demo data',
    load: async () => (await import('./commands/demo')).defineDemo
  },
  {
    name: 'run',
    says: 'starts a program so that Tromix sees it',
    load: async () => (await import('./commands/run')).defineRun
  },
  {
    name: 'host',
    says: 'sends the counters of this host and its processes',
    load: async () => (await import('./commands/host')).defineHost
  },
  {
    name: 'load',
    says: 'sends the same requests again and again, and measures the answers',
    load: async () => (await import('./commands/load')).defineLoad
  },
  {
    name: 'inspect',
    says: 'says what files show, without a server',
    load: async () => (await import('./commands/inspect')).defineInspect
  },
  {
    name: 'compare',
    says: 'says what changed between two sets of files, and how sure that is',
    load: async () => (await import('./commands/compare')).defineCompare
  },
  {
    name: 'budget',
    says: 'writes a budget of what requests may cost, and judges files by one',
    load: async () => (await import('./commands/budget')).defineBudget
  },
  {
    name: 'mcp',
    says: 'lets an assistant ask a server, over standard input and output',
    load: async () => (await import('./commands/mcp')).defineMcp
  }
];
