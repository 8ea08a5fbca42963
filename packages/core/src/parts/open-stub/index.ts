import { lineAt, perHertz } from '../junction';
import { stub } from '../line/stub';
import { openEndLength } from '../open-end/model';
import { TABLED, tabled } from '../tabled';

/** A line that ends open. */
export const openStub = stub({
  kind: 'open-stub',
  field: 'copper',
  name: 'open stub',
  about:
    'A length of line that ends open. Ideal: lossless, with an open circuit at its end. Modelled: with loss, dispersion and the fringing field at its end.',
  source:
    TABLED + 'The end: Kirschning, Jansen & Koster 1981 (microstrip), Altschuler & Oliner 1960 (stripline).',
  variants: [{ id: 'open-stub', label: 'open stub', held: { z0: '50 ohm', theta: '45 deg' } }],
  ideal: 1,
  end(values, context) {
    const { re: width } = values.width;
    const found = tabled('open-end', [width], context, { widths: [width] });
    if (found) {
      const [re, im] = [new Float64Array(1), new Float64Array(1)];
      return (f, z0, out) => {
        found.scatter(f, z0, re, im);
        [out.re, out.im] = [re[0], im[0]];
      };
    }
    const line = lineAt(context, width);
    const turn = -2 * perHertz(line) * openEndLength(context.medium, context.substrate, line);
    return (f, _z0, out) => {
      out.re = Math.cos(turn * f);
      out.im = Math.sin(turn * f);
    };
  },
});

export default [openStub];
