import { readFileSync } from 'node:fs';
import { Option } from 'commander';
import { readBudget, type Budget } from '@tromix/core/compare/budget';
import { compareEndpoints, endpointSides } from '@tromix/core/compare/compared-batches';
import { compareHeaps, compareProfiles } from '@tromix/core/compare/compared-files';
import { judgeBudget } from '@tromix/core/compare/judge-budget';
import { worstOf, type BudgetState, type Judgement } from '@tromix/core/compare/judgement';
import { inspectProfile } from '@tromix/core/inspect/profile';
import { eachSide, type Sides } from '@tromix/core/sides';
import { EXIT, type Define } from '../command';
import { budgetLines, budgetMarkdown, junit } from '../compare/budget-formats';
import { compareLines } from '../compare/compare-lines';
import { compareMarkdown } from '../compare/compare-markdown';
import { heapLines, profileLines } from '../compare/file-lines';
import { KIND_NAMES, missingKinds, readSide, type ReadSide } from '../compare/read-sides';

const FORMATS = ['text', 'json', 'markdown', 'junit'] as const;
type Format = (typeof FORMATS)[number];

interface CompareOptions {
  json?: boolean;
  format: Format;
  budget?: string;
  strict?: boolean;
}

export const formatOption = (): Option =>
  new Option('--format <name>', 'what is printed').choices([...FORMATS]).default('text');

/** A build is broken by a broken budget, and not passed by one that could not be told. */
export const EXIT_OF: Record<BudgetState, number> = {
  kept: EXIT.ok,
  broken: EXIT.failed,
  'not told': EXIT.usage
};

export const defineCompare: Define = (command, outcome) => {
  command
    .usage('[options] <A...> -- <B...>')
    .argument('<file...>', 'files of before (A), then -- and files of after (B); plain or gzip')
    .option('--budget <file>', 'judge B, and the change, by a budget: exits 0 kept, 1 broken, 2 not told')
    .option('--strict', 'judge the figures themselves, without their intervals')
    .addOption(formatOption())
    .option('--json', 'the same as --format json')
    .addHelpText(
      'after',
      `
Traces of each side are taken as batches of one system. Endpoints that both have are compared: durations by their median and p95 with 95 %
intervals (moving-block bootstrap) and a rank test, then the parts of the request that make the difference, and the findings. Profiles are compared
by the shares of their functions, heap dumps by what is alive.

  tromix compare before.otlp.json -- after.otlp.json
  tromix compare --budget budget.json --format junit main/*.json -- branch/*.json > budget.xml`
    )
    .action(async (files: string[], options: CompareOptions) => {
      outcome.code = await compare(sidesOf(files, command.parent!.args), options);
    });
};

/** The files before and after `--`. */
function sidesOf(files: readonly string[], args: readonly string[]): Sides<string[]> {
  const second = args.includes('--') ? args.length - args.indexOf('--') - 1 : 0;
  return { before: files.slice(0, files.length - second), after: files.slice(files.length - second) };
}

const complain = (message: string): void => console.error(`tromix: ${message}`);

/** Reads a budget file. @returns null where it cannot be read, which is said */
export function budgetAt(path: string): Budget | null {
  let text: string;
  try {
    text = readFileSync(path, 'utf8');
  } catch (cause) {
    const { code, message } = cause as NodeJS.ErrnoException;
    complain(code === 'ENOENT' ? `There is no file ${path}.` : message);
    return null;
  }
  const read = readBudget(text);
  if (read.ok) return read.budget;
  complain(`${path}: ${read.message}`);
  return null;
}

async function compare(files: Sides<string[]>, options: CompareOptions): Promise<number> {
  const format = options.json ? 'json' : options.format;
  if (files.before.length === 0 || files.after.length === 0) {
    complain('Expected files of both sides: tromix compare A… -- B…');
    return EXIT.usage;
  }
  const option = files.after.find((file) => file.startsWith('--'));
  if (option) {
    complain(`Options stand before the files: tromix compare ${option} … A… -- B…`);
    return EXIT.usage;
  }
  if (format === 'junit' && !options.budget) {
    complain('The format junit is of a budget: name one by --budget.');
    return EXIT.usage;
  }
  const budget = options.budget === undefined ? null : budgetAt(options.budget);
  if (options.budget !== undefined && !budget) return EXIT.usage;
  const before = await readSide(files.before, complain);
  const after = await readSide(files.after, complain);
  if (!before || !after) return EXIT.usage;
  const missing = missingKinds({ before, after });
  for (const { kind, side } of missing)
    complain(
      `Side ${side} has no ${KIND_NAMES[kind]}, which the other has. Sides hold the same kinds of files.`
    );
  if (missing.length > 0) return EXIT.usage;
  const compared = compareRead({ before, after });
  if (!compared) {
    complain('The profiles of the two sides do not measure the same thing.');
    return EXIT.usage;
  }
  const judgements = budget && judgeBudget(budget, compared.evidence, options.strict === true);
  print(format, files, compared, judgements);
  return judgements ? EXIT_OF[worstOf(judgements)] : EXIT.ok;
}

type Compared = NonNullable<ReturnType<typeof compareRead>>;

/** Everything that is said of two sides; null where their profiles measure different things. */
function compareRead(sides: Sides<ReadSide>) {
  const endpoints = eachSide(sides, ({ traces }) => endpointSides(traces));
  const traces = sides.after.traces.length > 0 ? compareEndpoints(endpoints) : null;
  const profiles = eachSide(sides, (side) => side.profiles.at(-1) ?? null);
  const heaps = eachSide(sides, (side) => side.heaps.at(-1) ?? null);
  const functions =
    profiles.before && profiles.after
      ? compareProfiles({ before: profiles.before.profile, after: profiles.after.profile })
      : [];
  if (functions === null) return null;
  return {
    traces,
    functions: profiles.after ? functions : null,
    heaps:
      heaps.before && heaps.after
        ? compareHeaps({ before: heaps.before.heap, after: heaps.after.heap })
        : null,
    evidence: {
      endpoints: endpoints.after.byEndpoint,
      compared: traces?.endpoints ?? [],
      profiles: sides.after.profiles.map(({ profile }) => inspectProfile(profile, 0)),
      heaps: eachSide(heaps, (one) => one?.heap ?? null)
    }
  };
}

function print(
  format: Format,
  files: Sides<string[]>,
  { traces, functions, heaps }: Compared,
  judgements: Judgement[] | null
): void {
  const lines = (some: Iterable<string>): void => {
    for (const line of some) console.log(line);
  };
  switch (format) {
    case 'json':
      console.log(JSON.stringify({ tromix: 1, files, ...traces, functions, heaps, budget: judgements }));
      return;
    case 'junit':
      console.log(junit(judgements!));
      return;
    case 'markdown':
      if (judgements) console.log(`${budgetMarkdown(judgements)}\n`);
      if (traces) lines(compareMarkdown(traces));
      if (functions) lines(['```', ...profileLines(functions), '```']);
      if (heaps) lines(['```', ...heapLines(heaps), '```']);
      return;
    case 'text':
      if (traces) lines(compareLines(traces));
      if (functions) lines(profileLines(functions));
      if (heaps) lines(heapLines(heaps));
      if (judgements) lines(budgetLines(judgements));
  }
}
