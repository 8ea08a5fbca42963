import { C0 } from '../../numeric';
import { uniformLine } from '../../network/electrical';
import type { LinePoint } from '../../lines';
import { bar, type PartDefinition } from '../contract';

/** A uniform line: impedance and electrical length at the design frequency, or width and length. */
export const line: PartDefinition = {
  kind: 'line',
  name: 'line',
  about:
    'A uniform length of transmission line. Ideal: lossless and free of dispersion, with its impedance and electrical length at the design frequency. ' +
    'Modelled: the cross-section with dispersion, conductor and dielectric loss.',
  properties: [
    {
      id: 'across',
      faces: [
        {
          name: 'z0',
          label: 'Impedance',
          help: 'Characteristic impedance at the design frequency. The width follows from the substrate.',
          side: 'electrical',
          rule: { kind: 'impedance', min: 0, exclusive: true },
        },
        {
          name: 'width',
          label: 'Width',
          help: 'Width of the conductor. The impedance follows from the substrate.',
          side: 'physical',
          rule: { kind: 'length', min: 0, exclusive: true },
        },
      ],
    },
    {
      id: 'along',
      faces: [
        {
          name: 'theta',
          label: 'Electrical length',
          help: 'Phase along the line at the design frequency; a quarter wave is 90 deg. The length follows.',
          side: 'electrical',
          rule: { kind: 'angle', min: 0 },
        },
        {
          name: 'length',
          label: 'Length',
          help: 'Length along the line. lambda stands for the guided wavelength of this line: lambda/4 is a quarter wave.',
          side: 'physical',
          rule: { kind: 'length', min: 0 },
        },
      ],
    },
  ],
  pins: () => 2,

  resolve(held, context) {
    const width = held.width ? held.width.re : context.width(held.z0.re);
    const at = context.line(width);
    const wavelength = C0 / (context.f0 * Math.sqrt(at.eeff));
    const turn = 2 * Math.PI;
    const length = held.length ? held.length.re : (held.theta.re / turn) * wavelength;
    return {
      z0: { re: held.z0 ? held.z0.re : at.z0, im: 0 },
      width: { re: width, im: 0 },
      theta: { re: held.theta ? held.theta.re : (length / wavelength) * turn, im: 0 },
      length: { re: length, im: 0 },
    };
  },

  electrical(values, _settings, level, context) {
    if (level === 'ideal') {
      const z0 = values.z0.re;
      const perHertz = values.theta.re / context.f0;
      return uniformLine((f, out) => {
        out.z0 = z0;
        out.alpha = 0;
        out.beta = perHertz * f;
      });
    }
    const prepared = context.prepared(values.width.re);
    const length = values.length.re;
    const point: LinePoint = { z0: 0, eeff: 0, alphaConductor: 0, alphaDielectric: 0 };
    const k = (2 * Math.PI * length) / C0;
    return uniformLine((f, out) => {
      prepared.at(f, point);
      out.z0 = point.z0;
      out.alpha = (point.alphaConductor + point.alphaDielectric) * length;
      out.beta = k * f * Math.sqrt(point.eeff);
    });
  },

  artwork(values) {
    const length = values.length.re;
    return {
      copper: [bar(length, values.width.re)],
      pins: [
        { x: 0, y: 0, angle: Math.PI },
        { x: length, y: 0, angle: 0 },
      ],
    };
  },
};
