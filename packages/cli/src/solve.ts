import type { Command } from 'commander';
import { CopperFileError, readCopper } from '@ditch/core/formats';
import { accuracies, CopperError, solveSteps, type Copper, type Solution } from '@ditch/core/planar';
import { formatNumber, formatQuantity } from '@ditch/core/units';
import { UsageError } from './errors';
import { print, readText } from './files';
import { choice, type Options } from './options';
import { addOutputOptions, checkPorts, readOutput, sweepOf, writeResponse } from './output';
import { table, watched } from './print';

export function addSolve(program: Command): void {
  const command = program
    .command('solve')
    .description('the planar field solution of plain copper')
    .argument('<copper>', 'JSON file of copper, stack and ports')
    .option('--accuracy <accuracy>', 'draft, normal (default) or fine')
    .option('--json', 'print how it was solved as one JSON object')
    .action((file: string, options: Options) => run(file, options));
  addOutputOptions(command, '');
}

function open(file: string): Copper {
  try {
    return readCopper(readText(file));
  } catch (error) {
    if (error instanceof CopperFileError) throw new UsageError(`${file}: ${error.message}`);
    throw error;
  }
}

function run(file: string, options: Options): void {
  const accuracy = choice(options, 'accuracy', accuracies, 'normal');
  const output = readOutput(options);
  const frequencies = sweepOf(options);
  const copper = open(file);
  checkPorts(copper.ports.length, output, 'the copper');
  const begun = performance.now();
  let solution: Solution;
  try {
    solution = watched(solveSteps(copper, frequencies, { accuracy }));
  } catch (error) {
    if (!(error instanceof CopperError)) throw error;
    throw new UsageError(
      `${file}: ${error.port === undefined ? '' : `port ${error.port}: `}${error.message}`,
    );
  }
  const seconds = (performance.now() - begun) / 1e3;
  const { data, unknowns, solvedAt, error, ports, resonances, warnings } = solution;
  writeResponse(data, output, {
    who: 'the copper',
    comments: [`planar field solution, ${accuracy} accuracy, ${unknowns} unknowns`],
    report: () => {
      if (options.json)
        return print(
          `${JSON.stringify({ unknowns, solvedAt, seconds, error, ports, boxResonances: resonances, warnings, ...(output.out === undefined ? {} : { file: output.out }) })}\n`,
        );
      print(
        `${unknowns} unknowns, solved at ${solvedAt.length} frequencies in ${formatNumber(seconds, 3)} s, error of S about ${formatNumber(error, 2)}\n${table(
          [
            ['port', 'z0', 'eeff'],
            ...ports.map((p) => [
              String(p.number),
              formatQuantity(p.z0, 'impedance', { digits: 5 }),
              formatNumber(p.eeff, 5),
            ]),
          ],
        )}`,
      );
      if (resonances.length > 0)
        print(
          `the box resonates at ${resonances.map((f) => formatQuantity(f, 'frequency', { digits: 5 })).join(', ')}\n`,
        );
      for (const w of warnings) print(`note: ${w}\n`);
      if (output.out !== undefined) print(`${output.parameter.toUpperCase()} written to ${output.out}\n`);
    },
  });
}
