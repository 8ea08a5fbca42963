import { C0 } from '../numeric/constants';
import { agm } from '../numeric/elliptic';
import { solveSlots, type SlotSurroundings } from '../section';
import type { CrossSection, LineModelLevel, LineWarning, StaticPoint, Substrate } from './contract';
import { lossThickness } from './loss';
import { fillingOf, fromCapacitances, prepared } from './modes';
import { receding } from './recession';

/** Cutoff of the first surface wave of a dielectric on metal, Hz. */
const surfaceWave = ({ er, height }: Substrate): number =>
  er > 1 ? C0 / (4 * height * Math.sqrt(er - 1)) : Infinity;

/** Permittivity over frequency, from its static value. Source: Hasnain, Dienes & Whitaker 1986. */
function dispersion(substrate: Substrate, width: number, slot: number, eeff: number): (f: number) => number {
  const p = Math.log(width / substrate.height);
  const u = 0.54 - 0.64 * p + 0.015 * p * p;
  const v = 0.43 - 0.86 * p + 0.54 * p * p;
  const scale = Math.exp(u * Math.log(width / slot) + v);
  const [from, to] = [Math.sqrt(eeff), Math.sqrt(substrate.er)];
  const cutoff = surfaceWave(substrate);
  return (f) => {
    const root = from + (to - from) / (1 + scale * Math.pow(f / cutoff, -1.8));
    return root * root;
  };
}

/** K(k)/K'(k) of a modulus. */
const modularRatio = (k: number): number => {
  const complement = Math.sqrt(1 - k * k);
  return agm(1, k) / agm(1, complement);
};

/**
 * What conformal maps of the parts, added up, say of a thin line without a lid. Sources: Veyres & Fouad Hanna 1980 (air
 * below); Ghione & Naldi 1987 (ground below).
 */
function conformal(er: number, h: number, grounded: boolean, width: number, slot: number): StaticPoint {
  const whole = width + 2 * slot;
  const air = modularRatio(width / whole);
  const x = Math.PI / (4 * h);
  if (grounded) {
    const below = modularRatio(Math.tanh(x * width) / Math.tanh(x * whole));
    const eeff = (air + er * below) / (air + below);
    return { z0: (60 * Math.PI) / (Math.sqrt(eeff) * (air + below)), eeff };
  }
  const below = modularRatio(Math.sinh(x * width) / Math.sinh(x * whole));
  const eeff = 1 + ((er - 1) / 2) * (below / air);
  return { z0: (30 * Math.PI) / (Math.sqrt(eeff) * air), eeff };
}

function coplanar(name: string, grounded: boolean, about: string): CrossSection<'coplanar'> {
  return {
    name,
    shape: 'coplanar',
    modes: 1,
    about,

    prepare(substrate: Substrate, [width, slot], level: LineModelLevel = 'dispersive') {
      const { er, height: h, thickness: t, cover } = substrate;
      const around: SlotSurroundings = { height: h, grounded, cover };
      const [air, filled] = solveSlots(width, slot, t, around, [1, er]).map((c) => c.value);
      const statics = fromCapacitances(air, filled);
      const thick = lossThickness(t, Math.min(h, slot));
      const room = cover - t;
      const slopes = () =>
        receding(Math.min(h, width, slot, thick, room), (n) => {
          const moved = { height: h + 2 * n, grounded, cover: room + thick };
          return [1 / (C0 * solveSlots(width - 2 * n, slot + 2 * n, thick - 2 * n, moved, [1])[0].value)];
        });
      const filling = fillingOf(er, (beside) => [
        solveSlots(width, slot, t, around, [beside])[0].value / air,
      ]);
      const permittivity =
        level === 'dispersive' && er > 1 ? dispersion(substrate, width, slot, statics.eeff) : undefined;
      return prepared(
        substrate,
        [statics],
        // The strip's current enters both faces.
        { slopes, depth: t / 2, filling },
        permittivity &&
          ((f, [out]) => {
            out.eeff = permittivity(f);
            out.z0 = statics.z0 * Math.sqrt(statics.eeff / out.eeff);
          }),
      );
    },

    origin({ er, height: h, thickness: t, cover }, [width, slot]) {
      const [air, filled] = solveSlots(width, slot, t, { height: h, grounded, cover }, [1, er]);
      const own = fromCapacitances(air.value, filled.value);
      const guess = conformal(er, h, grounded, width, slot);
      return {
        answers: 'field solution of the slots',
        error: Math.max(air.error, filled.error),
        closed: {
          source: 'Conformal maps of the parts (Veyres & Fouad Hanna 1980; Ghione & Naldi 1987)',
          z0: guess.z0 / own.z0 - 1,
          eeff: guess.eeff / own.eeff - 1,
        },
      };
    },

    /** Half a wavelength between the grounds, or the first surface wave: an estimate. */
    higherOrderMode: (substrate, [width, slot]) =>
      Math.min(surfaceWave(substrate), C0 / (2 * (width + 2 * slot) * Math.sqrt((substrate.er + 1) / 2))),

    warnings(substrate, [width, slot], f) {
      const list: LineWarning[] = [];
      const ratios = [width / slot, width / substrate.height];
      if (
        substrate.er > 1 &&
        (ratios.some((r) => r < 0.1 || r > 5) || substrate.er > 50 || f > 10 * surfaceWave(substrate))
      )
        list.push({
          code: 'coplanar-dispersion-range',
          message:
            'Hasnain, Dienes & Whitaker 1986 (dispersion of a coplanar line) holds for width over slot and over height from 0.1 to 5, permittivity up to 50 and ten times the first surface wave\u2019s cutoff.',
        });
      return list;
    },
  };
}

const ABOUT =
  'Side grounds without end in the plane of the strip. Static impedance and permittivity by the field solution of the slots (0.05 %), with ' +
  "conductor thickness and a lid; dispersion by Hasnain, Dienes & Whitaker 1986; conductor loss by Wheeler's incremental inductance rule on the " +
  'field solution, dielectric loss by the filling factor.';

/** A coplanar line on a dielectric with air below it. */
export const coplanarOnSlab = coplanar(
  'Coplanar line',
  false,
  `A strip between side grounds on a dielectric, air below it. ${ABOUT}`,
);
/** A coplanar line on a dielectric with a ground plane below it. */
export const coplanarOverGround = coplanar(
  'Coplanar line over ground',
  true,
  `A strip between side grounds on a dielectric, a ground plane below it. ${ABOUT}`,
);
