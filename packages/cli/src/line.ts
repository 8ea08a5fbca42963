import type { Command } from 'commander';
import {
  analyseLine,
  angleOf,
  lengthOf,
  synthesiseWidth,
  UnreachableImpedance,
  type MediumId,
} from '@ditch/core/lines';
import { formatNumber, formatQuantity } from '@ditch/core/units';
import { optionError, UsageError } from './errors';
import { print } from './files';
import { addSubstrateOptions, choice, quantity, stackFrom, type Options } from './options';
import { table } from './print';

const kinds = ['microstrip', 'stripline'] as const;

export function addLine(program: Command): void {
  const command = program
    .command('line')
    .description('analyse or synthesise a line: give --width and --length, or --z0 and --theta')
    .argument('<kind>', `cross-section: ${kinds.join(' or ')}`);
  addSubstrateOptions(command)
    .option('--freq <frequency>', 'operating frequency')
    .option('--model <model>', 'dispersive (default) or static: impedance and permittivity of zero frequency')
    .option('--width <length>', 'analysis: width of the conductor')
    .option('--length <length>', 'analysis: length along the line')
    .option('--z0 <impedance>', 'synthesis: characteristic impedance')
    .option('--theta <angle>', 'synthesis: electrical length at --freq')
    .option('--json', 'print one JSON object in SI units')
    .action((kind: string, options: Options) => run(kind, options));
}

function run(kind: string, options: Options): void {
  if (!kinds.includes(kind as MediumId))
    throw new UsageError(
      kind === 'coupled-microstrip' || kind === 'coupled-stripline'
        ? `line: ${kind} is not available yet; accepted: ${kinds.join(', ')}`
        : `line: "${kind}" is not a kind of line; accepted: ${kinds.join(', ')}`,
    );
  const medium = kind as MediumId;
  const { resolved } = stackFrom(options, medium);
  const freq = quantity(options, 'freq', { kind: 'frequency', min: 0, exclusive: true }).re;
  const model = choice(options, 'model', ['dispersive', 'static'] as const, 'dispersive');
  const analysis = (['width', 'length'] as const).filter((o) => options[o] !== undefined);
  const synthesis = (['z0', 'theta'] as const).filter((o) => options[o] !== undefined);
  if (analysis.length > 0 && synthesis.length > 0)
    optionError(
      synthesis[0],
      `belongs to synthesis and cannot be given with --${analysis[0]}, which belongs to analysis`,
    );
  if (analysis.length === 0 && synthesis.length === 0)
    throw new UsageError('--width: give --width and --length (analysis) or --z0 and --theta (synthesis)');
  const mode = analysis.length > 0 ? 'analysis' : 'synthesis';

  let width: number;
  if (mode === 'analysis') width = quantity(options, 'width', { kind: 'length', min: 0, exclusive: true }).re;
  else {
    const z0 = quantity(options, 'z0', { kind: 'impedance', min: 0, exclusive: true }).re;
    quantity(options, 'theta', { kind: 'angle', min: 0, exclusive: true });
    try {
      width = synthesiseWidth(medium, resolved.substrate, z0, freq, model);
    } catch (error) {
      if (error instanceof UnreachableImpedance) return optionError('z0', error.message);
      throw error;
    }
  }
  const line = analyseLine(medium, resolved.substrate, width, freq, model);
  const theta =
    mode === 'synthesis'
      ? quantity(options, 'theta', { kind: 'angle', min: 0, exclusive: true }).re
      : angleOf(quantity(options, 'length', { kind: 'length', min: 0, exclusive: true }).re, line.wavelength);
  const length =
    mode === 'synthesis'
      ? lengthOf(theta, line.wavelength)
      : quantity(options, 'length', { kind: 'length', min: 0, exclusive: true }).re;
  const thetaDeg = (theta * 180) / Math.PI;
  if (![line.z0, line.eeff, length, thetaDeg, line.lossConductor, line.lossDielectric].every(Number.isFinite))
    throw new UsageError(
      `--${mode === 'analysis' ? 'width' : 'z0'}: the line cannot be computed for these values`,
    );

  if (options.json) {
    print(
      `${JSON.stringify({
        kind,
        mode,
        width,
        length,
        freq,
        z0: line.z0,
        eeff: line.eeff,
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
  print(
    table([
      ['impedance', formatQuantity(line.z0, 'impedance')],
      [
        'electrical length',
        `${formatNumber(thetaDeg, 5)} deg at ${formatQuantity(freq, 'frequency', { digits: 6 })}`,
      ],
      ['width', formatQuantity(width, 'length', { digits: 5 })],
      ['length', formatQuantity(length, 'length', { digits: 5 })],
      ['effective permittivity', formatNumber(line.eeff, 5)],
      ['guided wavelength', formatQuantity(line.wavelength, 'length', { digits: 5 })],
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
