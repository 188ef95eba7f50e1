/** A word of ours, or one of the trade that a page uses in a narrower sense. */
export interface Term {
  word: string;
  meaning: string;
}

/** The words of the interface, in the order in which they build on each other. */
export const GLOSSARY = {
  scope: {
    word: 'Scope',
    meaning:
      'The sentence at the top: which service, endpoint, host, release and time range every view shows. It stands in the address, so a link shows the same.'
  },
  rail: {
    word: 'Time rail',
    meaning:
      'The time axis along the bottom. What you select on it applies to every view. Recordings and dumps are pinned to it.'
  },
  reading: {
    word: 'Reading',
    meaning: 'The panel on the right: what the view shows, in plain words, and where to look next.'
  },
  loadRun: {
    word: 'Load run',
    meaning:
      'Steps sent again and again by users with a ramp-up and loops, or at a rate. Every request a run caused is known, in every service.'
  },
  request: {
    word: 'Request',
    meaning:
      'One call of a service from outside: a server or consumer span with all the work below it. A request that another service makes is a request too.'
  },
  ledger: {
    word: 'Ledger',
    meaning:
      'The account of a request’s wall time. Every nanosecond is booked once, to one account, so the accounts add up to the duration exactly.'
  },
  account: {
    word: 'Account',
    meaning:
      'A kind of time in the ledger: own code, database, cache, remote call, messaging, file, lock, pause, queue or unseen.'
  },
  unseen: {
    word: 'Unseen',
    meaning: 'Time that no span, event or sample explains. The process may have computed or waited.'
  },
  blindStretch: {
    word: 'Blind stretch',
    meaning:
      'One continuous part of unseen time inside a span, longer than 10 % of its request. A profile of the process shows what it did.'
  },
  penLine: {
    word: 'Pen line',
    meaning:
      'The critical path, drawn as one line over the timeline: the spans the request waited for, moment by moment.'
  },
  booked: {
    word: 'Booked time',
    meaning: 'The part of the critical path that belongs to a span, a call group or an account.'
  },
  comb: {
    word: 'Comb',
    meaning: 'Many like calls under one span, folded into one row of the timeline. Each tooth is a call.'
  },
  callGroup: {
    word: 'Call group',
    meaning: 'Calls that differ only in their values: the same statement, or the same method and route.'
  },
  origin: {
    word: 'Origin',
    meaning: 'The line of code that makes a call, where the span records it.'
  },
  finding: {
    word: 'Finding',
    meaning:
      'What a rule concluded, with its evidence and its cost. Findings are ranked by cost, never by rule.'
  },
  background: {
    word: 'Background work',
    meaning:
      'Root spans that serve no caller: timers, file reads at start. They are listed apart and count in no rate, percentile or share.'
  },
  keepRule: {
    word: 'Keep rule',
    meaning: 'Decides which requests are kept in full, with all their spans. The others are still counted.'
  },
  evidence: {
    word: 'Evidence',
    meaning: 'A file that was recorded or uploaded: a profile, a thread dump, a heap dump, a statement log.'
  },
  self: {
    word: 'Self and total',
    meaning:
      'Of a function: the weight of samples in which it runs itself, and of samples in which it is anywhere on the stack.'
  },
  heaviestBranch: {
    word: 'Heaviest branch',
    meaning:
      'From the root of a profile down, always the child that weighs most, as long as it is at least a third of its parent.'
  },
  neighbours: {
    word: 'Neighbours',
    meaning: 'One function with all its callers on one side and all its callees on the other.'
  },
  retained: {
    word: 'Retained size',
    meaning: 'The bytes that would be freed if an object went: itself and all that only it keeps alive.'
  },
  holder: {
    word: 'Holder',
    meaning: 'An object that keeps a large part of the heap alive.'
  },
  apdex: {
    word: 'Apdex',
    meaning:
      'A score from 0 to 1 of how many requests are fast enough: satisfied up to T, tolerating up to 4T, frustrated beyond that or by a failure.'
  },
  rollUp: {
    word: 'Roll-up',
    meaning:
      'Sums per minute, hour or day. They count every request, also those that are no longer kept in full.'
  },
  watch: {
    word: 'Watch',
    meaning:
      'A figure, a scope and two limits, judged every minute: it comes on past the one and goes off within the other. It is told here, in the browser and by webhook.'
  },
  board: {
    word: 'Board',
    meaning: 'Charts of any views side by side on one time axis, with the limits of their watches.'
  },
  lift: {
    word: 'Lift',
    meaning: 'How much more common a value is among the slow requests than among the others.'
  }
} satisfies Record<string, Term>;
export type TermKey = keyof typeof GLOSSARY;
