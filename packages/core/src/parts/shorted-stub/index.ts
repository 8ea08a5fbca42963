import { stub } from '../line/stub';
import { disc } from '../shapes';
import { HOLE, holeProperty } from '../via';
import { viaInductance, viaResistance } from '../via/model';

/** A line that ends in a plated hole to ground. */
export const shortedStub = stub({
  kind: 'shorted-stub',
  field: 'grounded',
  name: 'shorted stub',
  about:
    'A length of line that ends in a plated hole to ground. Ideal: lossless, with a short circuit at its end. Modelled: with loss, dispersion and the inductance of the hole.',
  source: 'The hole: Goldfarb & Pucel 1991.',
  variants: [{ id: 'shorted-stub', label: 'shorted stub', held: { z0: '50 ohm', theta: '45 deg' } }],
  properties: [holeProperty],
  extra: (held) => ({ hole: held.hole?.re ?? HOLE }),
  ideal: -1,
  endReads: ['hole'],
  end(values, { medium, substrate }) {
    const l = viaInductance(medium, substrate, values.hole.re);
    return (f, z0, out) => {
      const r = viaResistance(medium, substrate, values.hole.re, f);
      const x = 2 * Math.PI * f * l;
      const d = 1 / ((r + z0) * (r + z0) + x * x);
      out.re = ((r - z0) * (r + z0) + x * x) * d;
      out.im = 2 * z0 * x * d;
    };
  },
  body: (values) => [disc(values.length.re, 0, values.hole.re / 2)],
});

export default [shortedStub];
