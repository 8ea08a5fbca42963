import type { SData } from '../results';

/** Entries smaller than this at the design frequency are meant to vanish. */
export const SMALL = 0.08;
/** A transmission above this is meant, however weak: a coupler takes a thousandth by intent. */
const MEANT = 1e-3;

/**
 * What a response at the design frequency has to reach, taken from the ideal one: matches and isolations as they are,
 * transmissions from matched ports in their ratio to the strongest output. Delay and loss common to all outputs are
 * nobody's fault and not asked for; what a port without a match sees follows from the rest.
 */
export interface Targets {
  readonly count: number;
  /** Writes the differences of point `k` of `data` into `out` from `at` on. */
  write(data: SData, k: number, out: Float64Array, at: number): void;
}

export function targetsOf(ideal: SData, point = 0): Targets {
  const n = ideal.ports;
  const base = point * n * n;
  const size = (i: number, j: number) => Math.hypot(ideal.re[base + i * n + j], ideal.im[base + i * n + j]);
  interface Rule {
    readonly i: number;
    readonly j: number;
    readonly kind: 'entry' | 'ratio';
    readonly k: number;
  }
  const rules: Rule[] = [];
  for (let j = 0; j < n; j++) {
    let strongest = -1;
    for (let i = 0; i < n; i++)
      if (i !== j && size(i, j) >= SMALL && (strongest < 0 || size(i, j) > size(strongest, j) + 1e-9))
        strongest = i;
    for (let i = 0; i < n; i++) {
      const nothing = i === j ? SMALL : MEANT;
      if (size(i, j) < nothing) rules.push({ i, j, kind: 'entry', k: i });
      else if (i !== j && i !== strongest && strongest >= 0 && size(j, j) < SMALL)
        rules.push({ i, j, kind: 'ratio', k: strongest });
      else if (size(i, j) < SMALL) rules.push({ i, j, kind: 'entry', k: i });
    }
  }
  const ratio = (d: SData, from: number, i: number, k: number, j: number) => {
    const [ar, ai] = [d.re[from + i * n + j], d.im[from + i * n + j]];
    const [br, bi] = [d.re[from + k * n + j], d.im[from + k * n + j]];
    const q = br * br + bi * bi;
    return { re: (ar * br + ai * bi) / q, im: (ai * br - ar * bi) / q };
  };
  return {
    count: 2 * rules.length,
    write(data, k, out, at) {
      const from = k * n * n;
      rules.forEach(({ i, j, kind, k: strongest }, r) => {
        const here = from + i * n + j;
        let re: number;
        let im: number;
        if (kind === 'entry') {
          re = data.re[here] - ideal.re[base + i * n + j];
          im = data.im[here] - ideal.im[base + i * n + j];
        } else {
          const have = ratio(data, from, i, strongest, j);
          const want = ratio(ideal, base, i, strongest, j);
          const weight = size(strongest, j);
          re = weight * (have.re - want.re);
          im = weight * (have.im - want.im);
        }
        out[at + 2 * r] = re;
        out[at + 2 * r + 1] = im;
      });
    },
  };
}
