import { createSolver, networkOf } from '../network';
import { cx, solveComplex, type Complex, type Sample } from '../numeric';
import type { SData } from '../results';
import type { SolvedSubject } from './copper';
import { REFERENCE } from './contract';

/**
 * Waves that go into the ports of solved copper, sqrt(W), when waves are sent into the ports of the design: through what is
 * joined to the copper and back from it.
 * @param sample S-parameters of the copper at the frequency
 * @param drive waves into the design's ports, sqrt(W), by number
 */
export function wavesInto(
  { nodes, rest }: Pick<SolvedSubject, 'nodes' | 'rest'>,
  data: (id: string) => SData | undefined,
  sample: Sample,
  drive: readonly Complex[],
): Complex[] {
  const network = networkOf(rest, data);
  const [d, q] = [network.ports.length, nodes.length];
  const n = d + q;
  const seen = createSolver({
    ...network,
    ports: [...network.ports, ...nodes.map((node) => ({ node, z0: { re: REFERENCE, im: 0 } }))],
  });
  const [re, im] = [new Float64Array(n * n), new Float64Array(n * n)];
  seen.solve(sample.x, re, im, 0);
  const rests = (i: number, j: number): Complex => ({ re: re[i * n + j], im: im[i * n + j] });
  // What comes out of the rest goes into the copper: a = S_qd a_d + S_qq S a, with S of the copper.
  const [ar, ai] = [new Float64Array(q * q), new Float64Array(q * q)];
  const [vr, vi] = [new Float64Array(q), new Float64Array(q)];
  for (let i = 0; i < q; i++) {
    for (let j = 0; j < q; j++) {
      let sum: Complex = { re: 0, im: 0 };
      for (let k = 0; k < q; k++)
        sum = cx.add(
          sum,
          cx.mul(rests(d + i, d + k), { re: sample.re[k * q + j], im: sample.im[k * q + j] }),
        );
      ar[i * q + j] = (i === j ? 1 : 0) - sum.re;
      ai[i * q + j] = -sum.im;
    }
    for (let j = 0; j < d; j++) {
      const into = cx.mul(rests(d + i, j), drive[j] ?? { re: 0, im: 0 });
      vr[i] += into.re;
      vi[i] += into.im;
    }
  }
  solveComplex(q, 1, ar, ai, vr, vi);
  return Array.from(vr, (x, i) => ({ re: x, im: vi[i] }));
}
