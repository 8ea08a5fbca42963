import { idealJoint, type Electrical } from '../electrical';
import { C0, ETA0 } from '../numeric';
import { linePoint, type Medium, type MediumId, type Substrate } from '../lines';
import type {
  ElectricalContext,
  InModel,
  PartModel,
  PartRemark,
  PartSettings,
  PartState,
  PartValues,
  Property,
} from './contract';

/** What the junction models need to know of a line, at the design frequency. */
export interface LineAtFrequency {
  /** m */
  readonly width: number;
  /** ohm */
  readonly z0: number;
  readonly eeff: number;
}

export function lineAt(context: ElectricalContext, width: number): LineAtFrequency {
  const p = linePoint();
  context.section('strip', width).impedanceAt(context.f0, [p]);
  return { width, z0: p.z0, eeff: p.eeff };
}

/** What a published model is in each medium; a further medium has to be given here. */
export type InMedium<F> = Readonly<Record<MediumId, F>>;

/** Phase constant over frequency, rad/(m Hz). */
export const perHertz = ({ eeff }: LineAtFrequency): number => (2 * Math.PI * Math.sqrt(eeff)) / C0;

/**
 * Width of the parallel-plate line with the same impedance and permittivity, m: between the strip and its ground in
 * microstrip, between the strip and both grounds in stripline.
 */
export const plateWidth = (medium: Medium, { height }: Substrate, { z0, eeff }: LineAtFrequency): number =>
  (ETA0 * height) / (Math.sqrt(eeff) * z0 * medium.grounds ** 2);

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
  const dr = new Float64Array(n);
  const di = new Float64Array(n);
  return {
    pins: n,
    scatter(f, zn, re, im) {
      const b = model.at(f, phase, turns);
      let gr = 0;
      let gi = b;
      for (let i = 0; i < n; i++) {
        const z = z0[i];
        const c = Math.cos(phase[i]);
        const s = Math.sin(phase[i]);
        // 1/d with d = zn cos + j z sin: what a line of z hands on between zn and the node.
        const size = 1 / (zn * zn * c * c + z * z * s * s);
        dr[i] = zn * c * size;
        di[i] = -z * s * size;
        // Admittance of the arm closed by zn, seen from the node: turns^2 (z cos + j zn sin) / (z d).
        const t = (turns[i] * turns[i]) / z;
        gr += t * (z * c * dr[i] - zn * s * di[i]);
        gi += t * (z * c * di[i] + zn * s * dr[i]);
      }
      const q = (2 * zn) / (gr * gr + gi * gi);
      const yr = gr * q;
      const yi = -gi * q;
      for (let i = 0; i < n; i++) {
        const z = z0[i];
        const c = Math.cos(phase[i]);
        const s = Math.sin(phase[i]);
        for (let j = 0; j <= i; j++) {
          // S_ij = 2 zn t_i t_j / (d_i d_j Y), and on the diagonal the reflection of the arm with the node shorted.
          const pr = dr[i] * dr[j] - di[i] * di[j];
          const pi = dr[i] * di[j] + di[i] * dr[j];
          const t = turns[i] * turns[j];
          let sr = t * (pr * yr - pi * yi);
          let si = t * (pr * yi + pi * yr);
          if (i === j) {
            sr += -zn * c * dr[i] - z * s * di[i];
            si += z * s * dr[i] - zn * c * di[i];
          }
          re[i * n + j] = re[j * n + i] = sr;
          im[i * n + j] = im[j * n + i] = si;
        }
      }
    },
  };
}

/** The width of one of a junction's arms. */
export const armProperty = (name: string, label: string): Property => ({
  id: name,
  otherwise: 'that of the line it meets',
  faces: [
    {
      name,
      label,
      help: 'Width of the line that meets this arm. Left out, it is the width of whatever is joined here.',
      side: 'physical',
      rule: { kind: 'length', min: 0, exclusive: true },
    },
  ],
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

/**
 * What a junction is in each model: an ideal joint of its pins, and what `model` makes of the lines it meets; where that
 * is undefined, because no line says its widths, the joint as well.
 */
export const joint = (
  pins: number,
  reads: readonly string[],
  model: (state: PartState, context: ElectricalContext) => Electrical | undefined,
): InModel<PartModel> => ({
  ideal: { reads: [], electrical: () => idealJoint(pins) },
  modelled: { reads, electrical: (state, context) => model(state, context) ?? idealJoint(pins) },
});

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
