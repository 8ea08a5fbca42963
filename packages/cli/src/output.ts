import type { Command } from 'commander';
import {
  numberFormats,
  responseWriters,
  TouchstoneError,
  type NumberFormat,
  type ResponseWriter,
} from '@ditch/core/formats';
import { frequencies } from '@ditch/core/network';
import { ConversionError, renormalise, type SData } from '@ditch/core/results';
import { optionError } from './errors';
import { writeWhole } from './files';
import { choice, count, quantity, type Options } from './options';

/** The sweep and the file of a response, the same wherever one is computed. @param otherwise what stands without a start */
export function addOutputOptions(command: Command, otherwise: string): Command {
  return addSweepOptions(
    command.option('--out <file>', '.sNp (Touchstone 1.1), .ts (Touchstone 2.0) or .csv'),
    otherwise,
  );
}

/** The sweep, and how numbers are written. */
export function addSweepOptions(command: Command, otherwise: string): Command {
  return command
    .option('--start <frequency>', `first frequency${otherwise}`)
    .option('--stop <frequency>', 'last frequency, included')
    .option('--points <count>', 'number of points, 1 to 100001; 1 needs --start equal to --stop')
    .option('--scale <scale>', 'lin (default) or log')
    .option('--format <format>', 'ri (default), ma or db')
    .option('--parameter <parameter>', 's (default), y or z')
    .option('--z0 <impedance>', 'reference impedance of the result (default: each port\u2019s own)');
}

/** What the options say of the file. */
export interface Output {
  readonly format: NumberFormat;
  readonly parameter: 's' | 'y' | 'z';
  readonly out?: string;
  readonly suffix?: string;
  readonly writer?: ResponseWriter;
  readonly reference?: { readonly re: number; readonly im: number };
}

/** What the options say of files of a family, each as Touchstone 1.1. */
export function readFolderOutput(options: Options): Output {
  return numbersOf(options);
}

function numbersOf(options: Options): Output {
  const format = choice(
    options,
    'format',
    numberFormats.map((f) => f.id),
    'ri',
  );
  const parameter = choice(options, 'parameter', ['s', 'y', 'z'] as const, 's');
  const reference =
    options.z0 === undefined
      ? undefined
      : quantity(options, 'z0', { kind: 'impedance', complex: true, min: 0, exclusive: true });
  return { format, parameter, reference };
}

export function readOutput(options: Options): Output {
  const numbers = numbersOf(options);
  const out = typeof options.out === 'string' ? options.out : undefined;
  const suffix = out === undefined ? undefined : /\.([^./\\]+)$/.exec(out)?.[1].toLowerCase();
  const writer =
    suffix === undefined ? undefined : Object.values(responseWriters).find((w) => w.takes(suffix));
  if (out !== undefined && writer === undefined)
    optionError('out', `"${out}" must end in .s1p, .s2p \u2026, .ts or .csv`);
  return { ...numbers, out, suffix, writer };
}

/** The frequencies that the options ask for, Hz. @param sweep what stands where nothing is said */
export function sweepOf(
  options: Options,
  sweep?: { readonly start: number; readonly stop: number; readonly points: number },
): Float64Array {
  const scale = choice(options, 'scale', ['lin', 'log'] as const, 'lin');
  const frequency = { kind: 'frequency', min: 0 } as const;
  const start = options.start !== undefined ? quantity(options, 'start', frequency).re : sweep?.start;
  const stop = options.stop !== undefined ? quantity(options, 'stop', frequency).re : sweep?.stop;
  if (start === undefined) return optionError('start', 'is required');
  if (stop === undefined) return optionError('stop', 'is required');
  const points = count(options, 'points', 1, 100001, sweep?.points ?? 401);
  if (points === 1) {
    if (start !== stop) optionError('stop', 'must equal --start when --points is 1');
  } else if (!(start < stop)) optionError('stop', 'must be above --start');
  if (scale === 'log' && start === 0) optionError('start', 'must be above zero on a logarithmic scale');
  return frequencies(start, stop, points, scale);
}

/** A response that cannot be written into the file named is refused before it is computed. @param who whose ports they are */
export function checkPorts(ports: number, { out, suffix }: Output, who: string): void {
  if (suffix && /^s\d+p$/.test(suffix) && Number(suffix.slice(1, -1)) !== ports)
    optionError('out', `"${out}" is for ${suffix.slice(1, -1)} ports, ${who} has ${ports}: use .s${ports}p`);
}

/** A response in the reference that is asked for; one for all where the file can only say one. */
function referred(computed: SData, { reference, suffix }: Output, wayOut: string): SData {
  if (reference)
    return renormalise(
      computed,
      computed.z0.map(() => reference),
    );
  if (suffix && /^s\d+p$/.test(suffix)) {
    const [first] = computed.z0;
    if (computed.z0.some((z) => z.re !== first.re || z.im !== first.im))
      optionError(
        'out',
        `the ports have different reference impedances, which Touchstone 1.1 cannot say; ${wayOut}`,
      );
  }
  return computed;
}

/** Runs what writes or converts, and names the option by which it can be had. */
function converted<T>({ reference }: Output, wayOut: string, work: () => T): T {
  try {
    return work();
  } catch (error) {
    if (error instanceof TouchstoneError)
      return optionError(reference ? 'z0' : 'out', `${error.message}; ${wayOut}`);
    if (error instanceof ConversionError) return optionError('parameter', error.message);
    throw error;
  }
}

/** A response as the text of a Touchstone 1.1 file. */
export function textOf(
  computed: SData,
  output: Output,
  who: string,
  comments: readonly string[],
): { readonly suffix: string; readonly text: string } {
  const suffix = `s${computed.ports}p`;
  const own = { ...output, suffix };
  checkPorts(computed.ports, own, who);
  const writer = Object.values(responseWriters).find((w) => w.takes(suffix))!;
  const { format, parameter } = output;
  const text = converted(own, 'give a real --z0', () =>
    writer.write(referred(computed, own, 'give --z0'), { format, parameter, comments }),
  );
  return { suffix, text };
}

/** Writes a response as the options ask for, and reports it. */
export function writeResponse(
  computed: SData,
  output: Output,
  {
    who,
    comments,
    report,
  }: {
    readonly who: string;
    readonly comments: readonly string[];
    readonly report: (data: SData) => void;
  },
): void {
  const { format, parameter, out, writer } = output;
  checkPorts(computed.ports, output, who);
  const data = referred(computed, output, 'give --z0, or write a .ts file');
  converted(output, 'give a real --z0, or write .csv', () => {
    if (out !== undefined && writer) writeWhole(out, writer.write(data, { format, parameter, comments }));
    report(data);
  });
}
