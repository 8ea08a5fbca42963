import type { Command } from 'commander';
import {
  analyseSection,
  angleOf,
  lengthOf,
  lineKinds,
  pairImpedances,
  readPair,
  synthesiseCoplanar,
  synthesisePair,
  synthesiseWidth,
  UnreachableImpedance,
  UnreachablePair,
  type CrossSection,
  type LineKind,
  type LineModelLevel,
  type MediumId,
  type Shape,
  type Substrate,
} from '@ditch/core/lines';
import { formatNumber, formatQuantity } from '@ditch/core/units';
import { optionError, UsageError } from './errors';
import { print } from './files';
import { addSubstrateOptions, choice, key, quantity, stackFrom, type Options } from './options';
import { table } from './print';

const kinds = Object.keys(lineKinds) as LineKind[];
const isKind = (kind: string): kind is LineKind => kinds.includes(kind as LineKind);

/** The options that describe one shape of copper. */
interface ShapeOptions {
  /** Dimensions across, in the order of the shape's. */
  readonly dimensions: readonly string[];
  /** Sets of options of which synthesis takes one, besides --theta. */
  readonly wanted: readonly (readonly string[])[];
  /** Synthesis takes one of the dimensions as well. */
  readonly takesOne?: boolean;
}
const shapes: Readonly<Record<Shape, ShapeOptions>> = {
  strip: { dimensions: ['width'], wanted: [['z0']] },
  pair: {
    dimensions: ['width', 'gap'],
    wanted: [
      ['ze', 'zo'],
      ['z0', 'coupling'],
      ['differential', 'common'],
    ],
  },
  coplanar: { dimensions: ['width', 'slot'], wanted: [['z0']], takesOne: true },
};
const ACROSS = ['width', 'gap', 'slot'];
const WANTED = ['z0', 'ze', 'zo', 'coupling', 'differential', 'common'];

export function addLine(program: Command): void {
  const command = program
    .command('line')
    .description('analyse or synthesise a line: give its dimensions, or its impedances and --theta')
    .argument('<kind>', `cross-section: ${kinds.join(', ')}`);
  addSubstrateOptions(command)
    .option('--freq <frequency>', 'operating frequency')
    .option('--model <model>', 'dispersive (default) or static: impedance and permittivity of zero frequency')
    .option('--width <length>', 'width of a strip')
    .option('--gap <length>', 'coupled kinds: distance between the strips')
    .option('--slot <length>', 'coplanar kinds: distance between the strip and a side ground')
    .option('--length <length>', 'analysis: length along the line')
    .option('--z0 <impedance>', 'synthesis: characteristic impedance; coupled kinds: with --coupling')
    .option('--ze <impedance>', 'synthesis, coupled kinds: impedance of the even mode, with --zo')
    .option('--zo <impedance>', 'synthesis, coupled kinds: impedance of the odd mode, with --ze')
    .option('--coupling <level>', 'synthesis, coupled kinds: coupling of a quarter wave such as 15dB')
    .option('--differential <impedance>', 'synthesis, coupled kinds: differential impedance, with --common')
    .option('--common <impedance>', 'synthesis, coupled kinds: common-mode impedance, with --differential')
    .option('--theta <angle>', 'synthesis: electrical length at --freq (two modes: their mean)')
    .option('--json', 'print one JSON object in SI units')
    .action((kind: string, options: Options) => run(kind, options));
}

const has = (options: Options, name: string): boolean => options[key(name)] !== undefined;
const positive = (options: Options, name: string, kind: 'length' | 'impedance' | 'angle' | 'level'): number =>
  quantity(options, name, { kind, min: 0, exclusive: true }).re;
const list = (names: readonly string[]): string => names.map((n) => `--${n}`).join(' and ');

/** Whether the options ask for an analysis; all that does not go together is an error at an option. */
function isAnalysis(
  kind: LineKind,
  { dimensions, wanted, takesOne }: ShapeOptions,
  options: Options,
): boolean {
  const own = [...new Set(wanted.flat())];
  for (const name of [...ACROSS, ...WANTED])
    if (has(options, name) && ![...dimensions, ...own].includes(name))
      optionError(name, `does not belong to ${kind}`);
  const synthesis = [...own, 'theta'].filter((name) => has(options, name));
  const analysis = [...(takesOne ? [] : dimensions), 'length'].filter((name) => has(options, name));
  if (analysis.length > 0 && synthesis.length > 0)
    optionError(
      synthesis[0],
      `belongs to synthesis and cannot be given with --${analysis[0]}, which belongs to analysis`,
    );
  if (synthesis.length > 0) return false;
  if (dimensions.some((name) => has(options, name)) || analysis.length > 0) return true;
  const sets = wanted.map((set) => list([...set, 'theta'])).join(', or ');
  throw new UsageError(
    `--width: give ${list([...dimensions, 'length'])} (analysis) or ${sets}${takesOne ? ` with ${dimensions.map((d) => `--${d}`).join(' or ')}` : ''} (synthesis)`,
  );
}

/** The set of options that a synthesis is asked by. */
function setOf({ wanted }: ShapeOptions, options: Options): readonly string[] {
  const given = wanted.flat().filter((name) => has(options, name));
  const set = wanted.find((names) => names.includes(given[0])) ?? wanted[0];
  const stranger = given.find((name) => !set.includes(name));
  if (stranger) optionError(stranger, `cannot be given with --${given[0]}`);
  return set;
}

/** Dimensions across, m, from what is wanted. */
function synthesise(
  kind: LineKind,
  substrate: Substrate,
  options: Options,
  freq: number,
  model: LineModelLevel,
): readonly number[] {
  const section = lineKinds[kind];
  const shape = shapes[section.shape];
  const set = setOf(shape, options);
  const values = set.map((name) => positive(options, name, name === 'coupling' ? 'level' : 'impedance'));
  positive(options, 'theta', 'angle');
  const medium: MediumId = kind.endsWith('stripline') ? 'stripline' : 'microstrip';
  try {
    if (section.shape === 'strip') return [synthesiseWidth(medium, substrate, values[0], freq, model)];
    if (section.shape === 'pair') {
      const [even, odd] =
        set[0] === 'z0'
          ? pairImpedances(values[0], values[1])
          : set[0] === 'ze'
            ? values
            : [2 * values[1], values[0] / 2];
      if (!(even > odd))
        return optionError(
          set[0],
          set[0] === 'ze'
            ? 'the even impedance must be greater than the odd one'
            : 'the differential impedance must be less than four times the common one: strips side by side couple',
        );
      const { width, gap } = synthesisePair(medium, substrate, even, odd, freq, model);
      return [width, gap];
    }
    const given = shape.dimensions.filter((name) => has(options, name));
    if (given.length !== 1)
      return optionError(
        given[1] ?? 'slot',
        given.length === 0
          ? 'give --width or --slot; synthesis finds the other'
          : 'synthesis takes --width or --slot and finds the other',
      );
    const dimension = positive(options, given[0], 'length');
    return synthesiseCoplanar(
      section,
      substrate,
      values[0],
      given[0] === 'width' ? { width: dimension } : { slot: dimension },
      freq,
      model,
    );
  } catch (error) {
    if (error instanceof UnreachableImpedance || error instanceof UnreachablePair)
      return optionError(set[set.length - 1], error.message);
    throw error;
  }
}

function run(kind: string, options: Options): void {
  if (!isKind(kind))
    throw new UsageError(`line: "${kind}" is not a kind of line; accepted: ${kinds.join(', ')}`);
  const section = lineKinds[kind] as CrossSection<Shape>;
  const shape = shapes[section.shape];
  const { resolved } = stackFrom(options, kind.endsWith('stripline') ? 'stripline' : 'microstrip');
  const { substrate } = resolved;
  const freq = quantity(options, 'freq', { kind: 'frequency', min: 0, exclusive: true }).re;
  const model = choice(options, 'model', ['dispersive', 'static'] as const, 'dispersive');
  const analysis = isAnalysis(kind, shape, options);
  const across = analysis
    ? shape.dimensions.map((name) => positive(options, name, 'length'))
    : synthesise(kind, substrate, options, freq, model);
  const line = analyseSection(section, substrate, across as [number, number], freq, model);
  const length = analysis
    ? positive(options, 'length', 'length')
    : lengthOf(positive(options, 'theta', 'angle'), line.wavelength);
  const thetaDeg = (angleOf(length, line.wavelength) * 180) / Math.PI;
  const numbers = line.modes.flatMap((m) => [m.z0, m.eeff, m.lossConductor, m.lossDielectric]);
  if (![...numbers, ...across, length, thetaDeg].every(Number.isFinite))
    throw new UsageError(
      `--${analysis ? 'width' : setOf(shape, options)[0]}: the line cannot be computed for these values`,
    );
  const [first, second] = line.modes;
  const dimensions = Object.fromEntries(shape.dimensions.map((name, i) => [name, across[i]]));
  const pair = second && readPair(first.z0, second.z0);

  if (options.json) {
    print(
      `${JSON.stringify({
        kind,
        mode: analysis ? 'analysis' : 'synthesis',
        ...dimensions,
        length,
        freq,
        ...(pair
          ? {
              ze: first.z0,
              zo: second.z0,
              eeffEven: first.eeff,
              eeffOdd: second.eeff,
              zDifferential: pair.zDifferential,
              zCommon: pair.zCommon,
              couplingDb: pair.couplingDb,
            }
          : { z0: first.z0, eeff: first.eeff }),
        thetaDeg,
        wavelength: line.wavelength,
        velocityFactor: line.velocityFactor,
        lossConductor: line.lossConductor,
        lossDielectric: line.lossDielectric,
        skinDepth: line.skinDepth,
        higherOrderMode: line.higherOrderMode,
        warnings: line.warnings,
      })}\n`,
    );
    return;
  }
  const loss = line.lossConductor + line.lossDielectric;
  const digits = { digits: 5 };
  print(
    table([
      ...(pair
        ? [
            ['even mode', formatQuantity(first.z0, 'impedance', digits)],
            ['odd mode', formatQuantity(second.z0, 'impedance', digits)],
            ['matched to', formatQuantity(pair.z0, 'impedance', digits)],
            ['coupling', `${formatNumber(pair.couplingDb, 4)} dB`],
            ['differential', formatQuantity(pair.zDifferential, 'impedance', digits)],
            ['common', formatQuantity(pair.zCommon, 'impedance', digits)],
          ]
        : [['impedance', formatQuantity(first.z0, 'impedance')]]),
      [
        'electrical length',
        `${formatNumber(thetaDeg, 5)} deg at ${formatQuantity(freq, 'frequency', { digits: 6 })}`,
      ],
      ...shape.dimensions.map((name, i) => [name, formatQuantity(across[i], 'length', digits)]),
      ['length', formatQuantity(length, 'length', digits)],
      [
        'effective permittivity',
        pair
          ? `${formatNumber(first.eeff, 5)} even, ${formatNumber(second.eeff, 5)} odd`
          : formatNumber(first.eeff, 5),
      ],
      ['guided wavelength', formatQuantity(line.wavelength, 'length', digits)],
      ['velocity factor', formatNumber(line.velocityFactor)],
      [
        'loss',
        `${formatNumber(loss)} dB/m (conductor ${formatNumber(line.lossConductor)}, dielectric ${formatNumber(line.lossDielectric)})`,
      ],
      ['loss over the length', `${formatNumber(loss * length)} dB`],
      ['skin depth', formatQuantity(line.skinDepth, 'length')],
      ['first higher-order mode', formatQuantity(line.higherOrderMode, 'frequency')],
      ...line.warnings.map((w) => ['warning', w.message]),
    ]),
  );
}
