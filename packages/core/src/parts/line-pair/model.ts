import { C0 } from '../../numeric';
import {
  cascade,
  fromChain,
  symmetricPair,
  uniformLine,
  type Electrical,
  type Propagation,
} from '../../electrical';
import { linePoint } from '../../lines';
import { valueOf, type InModel, type PartModel, type PartValues, type ResolveContext } from '../contract';
import { endFacts, endsOf } from './ends';

/** Mean guided wavelength of the two modes, m; of the even one where the other is slowed down to it. */
export function wavelength(
  [width, gap]: readonly [number, number],
  { pair, f0 }: ResolveContext,
  held: PartValues = {},
): number {
  const { eeffEven, eeffOdd } = pair.at(width, gap);
  if (valueOf(held, 'bridge') > 0) return C0 / (f0 * Math.sqrt(eeffEven));
  return (2 * C0) / (f0 * (Math.sqrt(eeffEven) + Math.sqrt(eeffOdd)));
}

/**
 * A pair whose modes propagate as `at` says: it fills the even and the odd one.
 * @param bridge capacitance between the strips at each end, F
 */
function coupled(at: (f: number, even: Propagation, odd: Propagation) => void, bridge = 0): Electrical {
  const points = [0, 1].map((): Propagation => ({ z0: 1, alpha: 0, beta: 0 }));
  let last = NaN;
  const [even, odd] = points.map((point) =>
    uniformLine((f, out) => {
      if (f !== last) at((last = f), points[0], points[1]);
      out.z0 = point.z0;
      out.alpha = point.alpha;
      out.beta = point.beta;
    }),
  );
  if (bridge === 0) return symmetricPair(even, odd);
  // The odd mode sees it twice, from each strip to the middle between them; the even mode not at all.
  const shunt = fromChain((f, re, im) => {
    re.fill(0);
    im.fill(0);
    re[0] = re[3] = 1;
    im[2] = 4 * Math.PI * f * bridge;
  });
  return symmetricPair(even, cascade([shunt, odd, shunt]));
}

/**
 * What coupled strips are in each model: two modes of one electrical length; both modes of the cross-section.
 * @param more faces that its copper has besides width, gap and length
 * @param made what the copper makes of the impedances of a pair with its width and gap, ohm; absent: it is that pair
 */
export const pairModels = (
  more: readonly string[],
  made: (ze: number, zo: number) => readonly [number, number] = (ze, zo) => [ze, zo],
): InModel<PartModel> => ({
  ideal: {
    reads: ['ze', 'zo', 'theta'],
    electrical({ values }, { f0 }) {
      const perHertz = values.theta.re / f0;
      return coupled((f, even, odd) => {
        even.z0 = values.ze.re;
        odd.z0 = values.zo.re;
        even.beta = odd.beta = perHertz * f;
      });
    },
  },
  modelled: {
    reads: ['width', 'gap', 'length', ...more],
    electrical({ values }, context) {
      const prepared = context.section('pair', values.width.re, values.gap.re);
      const whole = values.length.re;
      const k = (2 * Math.PI * whole) / C0;
      const points = [linePoint(), linePoint()];
      return coupled(
        (f, ...modes) => {
          prepared.at(f, points);
          const z = made(points[0].z0, points[1].z0);
          points.forEach((point, m) => {
            modes[m].z0 = z[m];
            modes[m].alpha = (point.alphaConductor + point.alphaDielectric) * whole;
            modes[m].beta = k * f * Math.sqrt(point.eeff);
          });
        },
        valueOf(values, 'bridge'),
      );
    },
  },
});

const bridged = pairModels(['bridge']);

/** What two coupled strips are, with their open ends beside one another. */
export const lineModels: InModel<PartModel> = {
  ...bridged,
  modelled: {
    reads: [...bridged.modelled.reads, ...endFacts],
    electrical(state, context) {
      const { longer } = endsOf(state, context);
      const { values } = state;
      const length = { re: values.length.re + longer, im: 0 };
      return bridged.modelled.electrical(
        longer === 0 ? state : { ...state, values: { ...values, length } },
        context,
      );
    },
    ends: (state, context) => endsOf(state, context).ends,
  },
};
