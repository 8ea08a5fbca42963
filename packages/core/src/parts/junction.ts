import { fromScattering, idealJoint, type Electrical } from '../network/electrical';
import { C0, ETA0 } from '../numeric';
import type { LinePoint, Medium, Substrate } from '../lines';
import type { ElectricalContext, Face, PartRemark, PartSettings, PartValues, Property } from './contract';

/** What the junction models need to know of a line, at the design frequency. */
export interface LineAtFrequency {
  /** m */
  readonly width: number;
  /** ohm */
  readonly z0: number;
  readonly eeff: number;
}

export function lineAt(context: ElectricalContext, width: number): LineAtFrequency {
  const p: LinePoint = { z0: 0, eeff: 0, alphaConductor: 0, alphaDielectric: 0 };
  context.prepared(width).impedanceAt(context.f0, p);
  return { width, z0: p.z0, eeff: p.eeff };
}

/** Phase constant over frequency, rad/(m Hz). */
export const perHertz = ({ eeff }: LineAtFrequency): number => (2 * Math.PI * Math.sqrt(eeff)) / C0;

/**
 * Width of the parallel-plate line with the same impedance and permittivity, m: between the strip and its ground in
 * microstrip, between the strip and both grounds in stripline.
 */
export const plateWidth = (medium: Medium, { height }: Substrate, { z0, eeff }: LineAtFrequency): number =>
  (ETA0 * height) / (Math.sqrt(eeff) * z0 * (medium === 'stripline' ? 4 : 1));

/** Lowest frequency at which a line's plate model carries a second mode, Hz. */
export const plateCutoff = (medium: Medium, substrate: Substrate, line: LineAtFrequency): number =>
  C0 / (2 * Math.sqrt(line.eeff) * plateWidth(medium, substrate, line));

/**
 * A junction as a node with a shunt susceptance that its arms join through ideal transformers and lengths of line.
 * Lossless and reciprocal by its form.
 */
export interface JunctionModel {
  /** Impedances of the arms, ohm. */
  readonly z0: readonly number[];
  /** Writes at `f`: phase of each arm (rad, negative shortens the line), its turns ratio (arm to node), and returns the susceptance in siemens. */
  at(f: number, phase: Float64Array, turns: Float64Array): number;
}

export function fromJunction(model: JunctionModel): Electrical {
  const { z0 } = model;
  const n = z0.length;
  const phase = new Float64Array(n);
  const turns = new Float64Array(n);
  return fromScattering(
    n,
    z0.map((re) => ({ re, im: 0 })),
    (f, re, im) => {
      const b = model.at(f, phase, turns);
      let g = 0;
      for (let i = 0; i < n; i++) g += (turns[i] * turns[i]) / z0[i];
      const d = 2 / (g * g + b * b);
      for (let i = 0; i < n; i++)
        for (let j = 0; j <= i; j++) {
          // S_ij = 2 sqrt(y_i y_j) / (sum y + jB) - delta_ij, then the planes move.
          const y = (turns[i] * turns[j]) / Math.sqrt(z0[i] * z0[j]);
          const sr = y * d * g - (i === j ? 1 : 0);
          const si = -y * d * b;
          const c = Math.cos(phase[i] + phase[j]);
          const s = -Math.sin(phase[i] + phase[j]);
          re[i * n + j] = re[j * n + i] = sr * c - si * s;
          im[i * n + j] = im[j * n + i] = sr * s + si * c;
        }
    },
  );
}

/** The width of one of a junction's arms. */
export const armFace = (name: string, label: string): Face => ({
  name,
  label,
  help: 'Width of the line that meets this arm. Left out, it is the width of whatever is joined here.',
  side: 'physical',
  rule: { kind: 'length', min: 0, exclusive: true },
});
export const armProperty = (name: string, label: string): Property => ({
  id: name,
  otherwise: 'that of the line it meets',
  faces: [armFace(name, label)],
});

/** Remarks on arms whose held width differs from the line they meet. */
export function armsFit(
  values: PartValues,
  names: readonly string[],
  neighbour: (pin: number) => number | undefined,
): PartRemark[] {
  return names.flatMap((name, pin) => {
    const met = neighbour(pin);
    const own = values[name]?.re;
    if (met === undefined || own === undefined || Math.abs(own - met) <= 1e-3 * met) return [];
    return [
      {
        face: name,
        message: `arm ${pin + 1} does not fit: it is ${mm(own)} wide and meets a line of ${mm(met)}. Let it take the line\u2019s width, or set a step between them.`,
      },
    ];
  });
}

export const mm = (x: number): string => `${Number((x * 1e3).toPrecision(3))} mm`;

/** The junction of a part at a level: an ideal joint at the ideal one, and where no line says its widths. */
export function junctionElectrical(
  pins: number,
  values: PartValues,
  names: readonly string[],
  level: 'ideal' | 'modelled',
  model: () => Electrical,
): Electrical {
  return level === 'ideal' || names.some((n) => values[n] === undefined) ? idealJoint(pins) : model();
}

/** Which way a side arm points. */
export const sideOf = (settings: PartSettings): 1 | -1 => (settings.side === 'right' ? -1 : 1);
export const sideChoice = {
  name: 'side',
  label: 'Side',
  help: 'The side on which the third arm leaves, seen along the first arm into the junction.',
  options: [
    { id: 'left', label: 'left' },
    { id: 'right', label: 'right' },
  ],
} as const;
export const otherSide = (settings: PartSettings): PartSettings => ({
  ...settings,
  side: settings.side === 'right' ? 'left' : 'right',
});
