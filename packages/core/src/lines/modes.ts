import { C0, ETA0 } from '../numeric/constants';
import type { LinePoint, PreparedSection, StaticPoint, Substrate } from './contract';
import { surfaceResistance } from './loss';

/** A mode at zero frequency from its capacitances in vacuum and filled, F/m. */
export const fromCapacitances = (air: number, filled: number): StaticPoint => ({
  z0: 1 / (C0 * Math.sqrt(air * filled)),
  eeff: filled / air,
});

/**
 * Share of each mode's field in the dielectric, from its permittivity; at er = 1 the limit, taken just beside.
 * @param solve static permittivities of the modes on a dielectric of another permittivity
 */
export function fillingOf(er: number, solve: (er: number) => readonly number[]): Losses['filling'] {
  if (Math.abs(er - 1) > 1e-4) return ({ eeff }) => (eeff - 1) / (er - 1);
  let beside: readonly number[] | undefined;
  return (_point, mode) => ((beside ??= solve(1.001))[mode] - 1) / 0.001;
}

/** What the attenuation of a cross-section's modes rests on. */
export interface Losses {
  /** Change of each mode's impedance in vacuum for receding walls, ohm/m; asked for when a loss is. */
  readonly slopes: () => readonly number[];
  /** Thickness of metal that the current of one face sees, m. */
  readonly depth: number;
  /** Share of a mode's field in the dielectric, in which its permittivity is. */
  readonly filling: (point: LinePoint, mode: number) => number;
}

/**
 * A cross-section whose modes are at `statics` and move with frequency by `disperse`; conductor loss by the incremental
 * inductance rule (Wheeler 1942), dielectric loss by the filling.
 */
export function prepared(
  { er, tand, conductivity, roughness }: Substrate,
  statics: readonly StaticPoint[],
  { slopes, depth, filling }: Losses,
  disperse?: (f: number, out: readonly LinePoint[]) => void,
): PreparedSection {
  const impedanceAt = (f: number, out: readonly LinePoint[]) => {
    statics.forEach(({ z0, eeff }, m) => {
      out[m].z0 = z0;
      out[m].eeff = eeff;
    });
    if (f > 0) disperse?.(f, out);
  };
  let known: readonly number[] | undefined;
  return {
    statics,
    impedanceAt,
    at(f, out) {
      impedanceAt(f, out);
      known ??= slopes();
      const resistance = surfaceResistance(f, conductivity, depth, roughness);
      for (let m = 0; m < statics.length; m++) {
        const point = out[m];
        point.alphaConductor = (resistance * known[m]) / (2 * ETA0 * point.z0);
        point.alphaDielectric = (Math.PI * f * er * filling(point, m) * tand) / (C0 * Math.sqrt(point.eeff));
      }
    },
  };
}
