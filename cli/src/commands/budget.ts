import { InvalidArgumentError } from 'commander';
import { endpointOf, endpointSides } from '@tromix/core/compare/compared-batches';
import { judgeBudget } from '@tromix/core/compare/judge-budget';
import { worstOf, type BudgetWhat } from '@tromix/core/compare/judgement';
import { HEADROOM, suggestedBudget } from '@tromix/core/compare/suggested-budget';
import { inspectProfile } from '@tromix/core/inspect/profile';
import { plural } from '@tromix/core/text/format';
import { EXIT, type Define } from '../command';
import { budgetLines, budgetMarkdown, junit } from '../compare/budget-formats';
import { readSide } from '../compare/read-sides';
import { budgetAt, EXIT_OF, formatOption } from './compare';

/** What is about two sides. */
const OF_CHANGE = new Set<BudgetWhat>(['slowerBy', 'growthBytes']);

const complain = (message: string): void => console.error(`tromix: ${message}`);

function headroom(text: string): number {
  const [, value] = /^(\d+(?:\.\d+)?)\s*%$/.exec(text) ?? [];
  if (value === undefined) throw new InvalidArgumentError('Expected a share such as 25%.');
  return Number(value) / 100;
}

export const defineBudget: Define = (command, outcome) => {
  command
    .command('init')
    .description('writes a budget that today’s figures keep, to standard output')
    .argument('<file...>', 'traces of today, plain or gzip')
    .option('--headroom <share>', 'room above the upper end of each interval', headroom, HEADROOM)
    .action(async (files: string[], options: { headroom: number }) => {
      outcome.code = await init(files, options.headroom);
    });
  command
    .command('check')
    .description('judges files by a budget: exits 0 kept, 1 broken, 2 not told')
    .argument('<budget>', 'budget file')
    .argument('<file...>', 'traces, profiles and heap dumps, plain or gzip')
    .option('--strict', 'judge the figures themselves, without their intervals')
    .addOption(formatOption())
    .action(
      async (
        budget: string,
        files: string[],
        options: { strict?: boolean; format: 'text' | 'json' | 'markdown' | 'junit' }
      ) => {
        outcome.code = await check(budget, files, options);
      }
    );
  command.addHelpText(
    'after',
    `
Budgets about a change (slowerBy, growthBytes) need two sides: tromix compare A… -- B… --budget FILE

  tromix budget init today/*.json > budget.json
  tromix budget check budget.json today/*.json`
  );
};

async function init(files: string[], room: number): Promise<number> {
  const side = await readSide(files, complain);
  if (!side) return EXIT.usage;
  const { byEndpoint } = endpointSides(side.traces);
  const budget = suggestedBudget(
    [...byEndpoint].map(([key, of]) => ({ ...endpointOf(key), side: of })),
    room
  );
  if (budget.endpoints.length === 0) {
    complain('No endpoint has enough requests for a budget.');
    return EXIT.usage;
  }
  console.log(JSON.stringify(budget, null, 2));
  return EXIT.ok;
}

async function check(
  path: string,
  files: string[],
  { strict, format }: { strict?: boolean; format: 'text' | 'json' | 'markdown' | 'junit' }
): Promise<number> {
  const budget = budgetAt(path);
  if (!budget) return EXIT.usage;
  const side = await readSide(files, complain);
  if (!side) return EXIT.usage;
  const all = judgeBudget(
    budget,
    {
      endpoints: endpointSides(side.traces).byEndpoint,
      compared: [],
      profiles: side.profiles.map(({ profile }) => inspectProfile(profile, 0)),
      heaps: { before: null, after: side.heaps.at(-1)?.heap ?? null }
    },
    strict === true
  );
  const judgements = all.filter(({ what }) => !OF_CHANGE.has(what));
  if (judgements.length < all.length)
    complain(
      `${plural(all.length - judgements.length, 'budget')} of a change not judged: that takes tromix compare A… -- B… --budget FILE.`
    );
  if (format === 'json') console.log(JSON.stringify({ tromix: 1, files, budget: judgements }));
  else if (format === 'junit') console.log(junit(judgements));
  else if (format === 'markdown') console.log(budgetMarkdown(judgements));
  else for (const line of budgetLines(judgements)) console.log(line);
  return EXIT_OF[worstOf(judgements)];
}
