import { Command, CommanderError } from 'commander';
import { COMMANDS } from './commands';
import { EXIT, Outcome } from './command';
import { VERSION } from './places';

/**
 * Runs the command line. Only the command that is called is loaded: the others are known by name alone.
 * @returns the exit code; null where the process goes on (a server).
 */
export async function main(args: readonly string[]): Promise<number | null> {
  const outcome = new Outcome();
  const program = new Command('tromix')
    .description(
      'Finds out why a request is slow: traces, profiles, dumps, and the line of code behind them.'
    )
    .version(VERSION)
    .enablePositionalOptions()
    .exitOverride();
  const called = args[0] === 'help' ? args[1] : args[0];
  for (const { name, says, load } of COMMANDS) {
    const command = new Command(name).description(says).copyInheritedSettings(program);
    if (name === called) (await load())(command, outcome);
    program.addCommand(command);
  }
  program.addHelpText(
    'after',
    '\nExit codes: 0 done, 1 what was run or looked at has failed, 2 called wrongly or could not read.'
  );
  if (args.length === 0) {
    program.outputHelp();
    return EXIT.ok;
  }
  try {
    await program.parseAsync(args, { from: 'user' });
    return outcome.code;
  } catch (cause) {
    if (!(cause instanceof CommanderError)) throw cause;
    return cause.exitCode === 0 ? EXIT.ok : EXIT.usage;
  }
}
