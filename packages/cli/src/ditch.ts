import { Command, CommanderError } from 'commander';
import { provideTables } from '@ditch/core/junctions';
import { junctionTables } from '@ditch/core/junctions/tables';
import { laminates } from '@ditch/core/stack';
import { addArtwork, addCheck } from './artwork';
import { addBack } from './back';
import { addDesign } from './design';
import { optionError, UsageError } from './errors';
import { print } from './files';
import { addFamily } from './family';
import { addLine } from './line';
import { table } from './print';
import { addSimulate } from './simulate';
import { addSolve } from './solve';
import { addSpread } from './spread';
import { addStudies } from './study';

/** One line for the person, whatever went wrong. */
const oneLine = (text: string): string =>
  text
    .replace(/^error: /, '')
    .replace(/\s*\n\s*/g, ' ')
    .trim();

/** Commander's wording, with the option's name in front as all our errors have it. */
function usageMessage(error: CommanderError): string {
  const text = oneLine(error.message);
  const option = /option '(?:-\w, )?--([\w-]+)/.exec(text);
  return option && !text.startsWith('--') ? `--${option[1]}: ${text}` : text;
}

function build(): Command {
  provideTables(junctionTables);
  const program = new Command('ditch')
    .description('Microstrip and stripline: impedances to copper, networks to responses.')
    .version('0.1.0')
    .exitOverride()
    .configureOutput({ writeErr: () => undefined, writeOut: print })
    .showSuggestionAfterError(false);
  addLine(program);
  addDesign(program);
  addSimulate(program);
  addSolve(program);
  addStudies(program);
  addArtwork(program);
  addCheck(program);
  addBack(program);
  addFamily(program);
  addSpread(program);
  program
    .command('substrates')
    .description('list the laminates that ship')
    .option('--json', 'print as JSON')
    .action((options: { json?: boolean }) => {
      print(
        options.json
          ? `${JSON.stringify({ substrates: laminates })}\n`
          : table([
              ['name', 'material', 'er', 'tand', 'height', 'copper'],
              ...laminates.map((l) => [l.id, l.name, l.er, l.tand, l.height, l.thickness]),
            ]),
      );
    });
  const inherit = (command: Command): void => {
    command
      .exitOverride()
      .configureOutput({ writeErr: () => undefined, writeOut: print })
      .allowExcessArguments(false)
      .showSuggestionAfterError(false);
    command.commands.forEach((c) => inherit(c));
  };
  inherit(program);
  program.hook('preAction', (_program, command) => {
    for (const [name, value] of Object.entries(command.opts<Record<string, unknown>>()))
      if (typeof value === 'string' && value.startsWith('--'))
        optionError(
          name.replace(/[A-Z]/g, (c) => `-${c.toLowerCase()}`),
          `needs a value (got "${value}")`,
        );
  });
  return program;
}

async function main(): Promise<void> {
  const program = build();
  try {
    if (process.argv.length <= 2) {
      program.outputHelp();
      return;
    }
    await program.parseAsync(joinNegatives(process.argv));
  } catch (error) {
    if (error instanceof CommanderError) {
      if (error.exitCode === 0) return;
      // A command without its subcommand shows its help as an error; say what is missing instead.
      process.stderr.write(
        `ditch: ${error.code === 'commander.help' ? 'a command is missing; see ditch --help' : usageMessage(error)}\n`.replace(
          /^ditch: --/,
          '--',
        ),
      );
    } else if (error instanceof UsageError) process.stderr.write(`${oneLine(error.message)}\n`);
    else process.stderr.write(`ditch: ${oneLine(error instanceof Error ? error.message : String(error))}\n`);
    process.exitCode = 2;
  }
}

/** `--load -41j ohm`-like values start with a dash: joined to their option so that they are not taken for one. */
function joinNegatives(argv: readonly string[]): string[] {
  const out: string[] = [];
  for (let i = 0; i < argv.length; i++) {
    const next = argv[i + 1];
    if (/^--[a-z][\w-]*$/.test(argv[i]) && next !== undefined && /^-[\d.]/.test(next)) {
      out.push(`${argv[i]}=${next}`);
      i++;
    } else out.push(argv[i]);
  }
  return out;
}

process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  // The reader of a pipe may leave early.
  if (error.code !== 'EPIPE') throw error;
});
await main();
