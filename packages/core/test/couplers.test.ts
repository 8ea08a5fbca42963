import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { layOut, nearPieces } from '../src/artwork';
import { pairImpedances, synthesisePair } from '../src/lines';
import { circuitOf, frequencies, resolveDesign } from '../src/network';
import { readCoupler, rolesOf, usualPlots } from '../src/plots';
import { review } from '../src/review';
import { couplingReach } from '../src/recipes';
import { laminates, resolveStack } from '../src/stack';
import { retune } from '../src/studies';
import {
  COUPLER_SECTIONS,
  coupledPower,
  designCoupler,
  eveningCapacitance,
  neighboursOf,
  ofFourFingers,
} from '../src/theory';
import { entry, made, ratio, response, size, withDesign } from './helpers';

const f0 = 10.55e9;
const dB = (x: number) => -20 * Math.log10(x);
const read = (project: ReturnType<typeof made>['project'], level: 'ideal' | 'modelled') => {
  const freq = frequencies(f0 / 2, 1.5 * f0, 201);
  const roles = rolesOf(response(project, 'ideal', freq), f0);
  return { roles, ...readCoupler(response(project, level, freq), roles, f0)! };
};

describe('couplers of quarter waves', () => {
  it('agree with the published designs', () => {
    // One section: the root of (1 + C)/(1 - C).
    const c = Math.SQRT1_2;
    expect(designCoupler({ coupling: 20 * Math.log10(1 / c), sections: 1 }).even[0]).toBeCloseTo(
      Math.sqrt((1 + c) / (1 - c)),
      12,
    );
    // Three maximally flat sections of 20 dB, by the theory of weak coupling: 50.63 and 56.69 ohm (Pozar, 4th ed., ex. 7.8).
    const flat = designCoupler({ coupling: 20, sections: 3 }).even.map((z) => 50 * z);
    [50.63, 56.69, 50.63].forEach((z, i) => expect(Math.abs(flat[i] - z)).toBeLessThan(0.02));
    // 3.01 dB within 0.1 dB in three sections (Cristal & Young 1965, table II).
    const even = designCoupler({ coupling: 10 * Math.log10(2), sections: 3, ripple: 0.1 }).even;
    [1.17135, 3.25984].forEach((z, i) => expect(Math.abs(even[i] / z - 1)).toBeLessThan(2e-4));
  });

  it('are maximally flat, or swing by the ripple and no more up to the edge of their band', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(3 as const, 5 as const),
        fc.double({ min: 2, max: 40, noNaN: true }),
        fc.double({ min: 0.02, max: 1, noNaN: true }),
        (sections, coupling, ripple) => {
          const flat = designCoupler({ coupling, sections }).even;
          // The first derivatives vanish: far less is missing near the centre than of one section.
          const missing = (share: number) =>
            1 - coupledPower(flat, (Math.PI / 2) * share) / Math.pow(10, -coupling / 10);
          expect(missing(1)).toBeCloseTo(0, 9);
          const order = Math.log2(missing(0.9) / missing(0.95));
          expect(order).toBeGreaterThan(sections + 1 - 0.35);
          const { even, band } = designCoupler({ coupling, sections, ripple });
          const level = (share: number) => -10 * Math.log10(coupledPower(even, (Math.PI / 2) * share));
          const inside = Array.from({ length: 2001 }, (_, k) => level(1 - (band / 2) * (1 - k / 2000)));
          expect(Math.max(...inside)).toBeCloseTo(coupling + ripple, 6);
          expect(Math.min(...inside)).toBeCloseTo(coupling - ripple, 4);
          expect(inside[0]).toBeCloseTo(coupling + ripple, 6);
          return true;
        },
      ),
      { numRuns: 30 },
    );
  });

  it('come out of the network as designed, matched and isolated at every frequency', () => {
    for (const sections of COUPLER_SECTIONS)
      for (const medium of ['microstrip', 'stripline'] as const) {
        const { project } = made(
          'coupler',
          { coupling: '17 dB', sections: String(sections) },
          laminates[0],
          medium,
        );
        const d = response(project, 'ideal', [f0, 0.7 * f0, 1.9 * f0]);
        const { even } = designCoupler({ coupling: 17, sections });
        [1, 0.7, 1.9].forEach((share, k) => {
          const power = coupledPower(even, (Math.PI / 2) * share);
          expect(size(entry(d, 3, 1, k)) ** 2).toBeCloseTo(power, 11);
          expect(size(entry(d, 2, 1, k)) ** 2).toBeCloseTo(1 - power, 11);
          for (let i = 1; i <= 4; i++) {
            expect(size(entry(d, i, i, k))).toBeLessThan(1e-11);
            expect(size(entry(d, 5 - i, i, k))).toBeLessThan(1e-11);
          }
        });
      }
  });

  it('stand on the copper whole: nothing open, nothing overlapping, all four ports at corners', () => {
    for (const sections of COUPLER_SECTIONS) {
      const { project, design } = made('coupler', { sections: String(sections) }, laminates[0], 'stripline');
      const resolved = resolveDesign(project, design);
      const layout = layOut(resolved);
      expect(layout.closures).toEqual([]);
      expect(nearPieces(resolved, layout, 0.1e-3)).toEqual([]);
      expect(review(project, design, resolved, layout).map((r) => r.message)).toEqual([]);
      const corners = [1, 2, 3, 4].map((n) => layout.pieces.find((p) => p.id === `port${n}`)!.pins[0]);
      const [one, two, three, four] = corners;
      expect(two.y).toBeCloseTo(one.y, 9);
      expect(four.y).toBeCloseTo(three.y, 9);
      expect(three.x).toBeCloseTo(one.x, 9);
      expect(four.x).toBeCloseTo(two.x, 9);
    }
  });

  it('have directivity between two grounds, and in microstrip once their velocities are evened', () => {
    const by = (inputs: Record<string, string>, medium: 'microstrip' | 'stripline' = 'microstrip') =>
      made('coupler', { sections: '1', ...inputs }, laminates[0], medium).project;
    const plain = read(by({}), 'modelled');
    expect(plain.roles).toMatchObject({ outputs: [1, 2], isolated: [3], coupled: 2 });
    expect(usualPlots(plain.roles)).toContain('directivity');
    const between = read(by({}, 'stripline'), 'modelled');
    const bridged = by({ velocities: 'bridged' });
    const evened = read(bridged, 'modelled');
    expect(plain.directivity).toBeLessThan(8);
    expect(evened.directivity).toBeGreaterThan(plain.directivity + 10);
    expect(between.directivity).toBeGreaterThan(plain.directivity + 20);
    // The ideal level is the intention, with and without.
    expect(read(bridged, 'ideal').coupling).toBeCloseTo(20, 9);
    const circuits = [by({}), bridged].map((p) => circuitOf(resolveDesign(p, p.designs[0]), 'ideal'));
    expect(circuits[1]!.pieces).toEqual(circuits[0]!.pieces);
  });

  it('a line loaded by the evening capacitance is the quarter wave asked for', () => {
    const [zo, share] = [43, 0.94];
    const w = 2 * Math.PI * f0;
    const theta = (Math.PI / 2) * share;
    const y = 2 * w * eveningCapacitance(zo, share, f0);
    const z = zo / Math.sin(theta);
    // A and B of shunt, line, shunt.
    expect(Math.cos(theta) - y * z * Math.sin(theta)).toBeCloseTo(0, 12);
    expect(z * Math.sin(theta)).toBeCloseTo(zo, 12);
    expect(eveningCapacitance(zo, 1.02, f0)).toBe(0);
  });

  it('retuning brings coupling, match and directivity back, both ends alike', () => {
    const { project, design } = made('coupler', { sections: '3', velocities: 'bridged' });
    const before = read(project, 'modelled');
    const { design: better } = retune(project, design);
    const after = read(withDesign(project, better), 'modelled');
    expect(Math.abs(before.coupling - 20)).toBeGreaterThan(0.2);
    expect(Math.abs(after.coupling - 20)).toBeLessThan(0.15);
    expect(after.directivity).toBeGreaterThan(25);
    const [first, , last] = better.pieces.filter((p) => p.kind === 'line-pair');
    expect(last.held).toEqual(first.held);
    expect(read(withDesign(project, better), 'ideal').coupling).toBeCloseTo(20, 9);
  });
});

describe('four interdigitated fingers', () => {
  it('are what two neighbours make of them, and back; 3 dB from what can be etched', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 20, max: 200, noNaN: true }),
        fc.double({ min: 0.01, max: 0.85, noNaN: true }),
        (z0, c) => {
          const turn = Math.sqrt((1 + c) / (1 - c));
          const back = ofFourFingers(...neighboursOf(z0 * turn, z0 / turn));
          return Math.abs(back[0] / (z0 * turn) - 1) < 1e-9 && Math.abs((back[1] * turn) / z0 - 1) < 1e-9;
        },
      ),
    );
    // Pozar, 4th ed., example 7.9: 3 dB at 50 ohm asks for 176.2 and 52.6 ohm of neighbours.
    const c = Math.pow(10, -3 / 20);
    const turn = Math.sqrt((1 + c) / (1 - c));
    const [ze, zo] = neighboursOf(50 * turn, 50 / turn);
    expect(ze).toBeCloseTo(176.2, 0);
    expect(zo).toBeCloseTo(52.6, 0);
    const { project, design } = made('coupler', { coupling: '3 dB', sections: '1', strips: 'fingers' });
    const resolved = resolveDesign(project, design);
    const { values } = resolved.pieces.find((p) => p.kind === 'finger-pair')!;
    expect(values!.gap.re).toBeGreaterThan(50e-6);
    expect(layOut(resolved).closures).toEqual([]);
    for (const level of ['ideal', 'modelled'] as const) {
      const { coupling, directivity } = read(project, level);
      expect(Math.abs(coupling - 3)).toBeLessThan(0.35);
      expect(directivity).toBeGreaterThan(18);
    }
    // From its copper, and from one of each, the same piece follows.
    const mm = (x: number) => `${x * 1e3} mm`;
    const with_ = (held: Readonly<Record<string, string>>) =>
      resolveDesign(project, {
        ...design,
        pieces: design.pieces.map((p) => (p.kind === 'finger-pair' ? { ...p, held } : p)),
      }).pieces.find((p) => p.kind === 'finger-pair')!.values!;
    const ways: Readonly<Record<string, string>>[] = [
      { width: mm(values!.width.re), gap: mm(values!.gap.re), length: 'lambda/4' },
      { width: mm(values!.width.re), zo: `${values!.zo.re} ohm`, theta: '90 deg' },
      { ze: `${values!.ze.re} ohm`, gap: mm(values!.gap.re), theta: '90 deg' },
    ];
    for (const held of ways)
      for (const face of ['ze', 'zo', 'width', 'gap', 'length'])
        // To the error of a table, which answers once a neighbourhood has been asked for a few times.
        expect(Math.abs(with_(held)[face].re / values![face].re - 1)).toBeLessThan(1e-5);
  });
});

describe('the reach of coupling on a board', () => {
  it('ends where the gap does: the tightest pair has the least gap, and others reach further', () => {
    const { project } = made('coupler');
    const { value } = resolveStack(project.stacks[0], 'microstrip');
    const { substrate } = value!;
    const [side, tandem, fingers] = couplingReach('microstrip', substrate, 50, 1e-4, f0);
    const [ze, zo] = pairImpedances(50, side.tightest);
    const pair = synthesisePair('microstrip', substrate, ze, zo, f0);
    expect(pair.gap / 1e-4).toBeCloseTo(1, 3);
    // 8.34 dB twice is 3.01 dB.
    const half = (dB: number) => Math.asin(Math.pow(10, -dB / 20));
    expect(half(tandem.tightest)).toBeCloseTo(2 * half(side.tightest), 12);
    expect(fingers.tightest).toBeLessThan(tandem.tightest);
    const finer = couplingReach('microstrip', substrate, 50, 2e-5, f0);
    finer.forEach((r, i) => expect(r.tightest).toBeLessThan([side, tandem, fingers][i].tightest - 1));
  });
});

describe('what else coupled lines make', () => {
  const dBat = (d: ReturnType<typeof response>, i: number, k = 0) => dB(size(entry(d, i, 1, k)));

  it('two couplers in tandem turn the power by the sum of their angles, on copper whose ring closes', () => {
    fc.assert(
      fc.property(fc.double({ min: 1.2, max: 12, noNaN: true }), (coupling) => {
        const { project, design } = made('tandem-coupler', { coupling: `${coupling} dB` }, laminates[8]);
        const d = response(project, 'ideal', [f0, 0.8 * f0]);
        expect(dBat(d, 3)).toBeCloseTo(coupling, 9);
        for (const k of [0, 1]) {
          expect(size(entry(d, 1, 1, k))).toBeLessThan(1e-11);
          expect(size(entry(d, 4, 1, k))).toBeLessThan(1e-11);
        }
        const q = ratio(d, 3, 2, 1);
        expect(q.re).toBeCloseTo(0, 9);
        expect(q.im).toBeGreaterThan(0);
        expect(layOut(resolveDesign(project, design)).closures).toEqual([]);
      }),
      { numRuns: 8 },
    );
  });

  it('a DC block has the standing wave asked for at its centre, a match to each side and nothing at 0 Hz', () => {
    for (const [zl, vswr] of [
      [50, 1],
      [50, 1.25],
      [80, 1.1],
    ]) {
      const { project } = made('dc-block', { zl: `${zl} ohm`, vswr: String(vswr) });
      const freq = frequencies(0.5 * f0, f0, 401);
      const d = response(project, 'ideal', [...freq, 1]);
      const s11 = Array.from(freq, (_f, k) => size(entry(d, 1, 1, k)));
      expect((1 + s11[400]) / (1 - s11[400])).toBeCloseTo(vswr, 6);
      if (vswr > 1 && zl === 50) expect(Math.min(...s11)).toBeLessThan(0.02);
      expect(size(entry(d, 2, 1, 401))).toBeLessThan(1e-6);
    }
  });

  it('a balun splits evenly and in opposition at every frequency, matched at its own', () => {
    for (const zl of ['50 ohm', '100 ohm']) {
      const { project } = made('balun', { zl });
      const d = response(project, 'ideal', [f0, 0.6 * f0, 1.3 * f0]);
      expect(size(entry(d, 1, 1))).toBeLessThan(1e-11);
      for (const k of [0, 1, 2]) {
        const q = ratio(d, 2, 3, 1, k);
        expect(q.re).toBeCloseTo(-1, 9);
        expect(q.im).toBeCloseTo(0, 9);
      }
    }
    const { project: given, design: whole } = made('balun');
    // Leads to its holes start it more even than there is anything to bring back.
    const values = whole.values.map((v) => (v.name === 'lead' ? { ...v, value: '0 mm' } : v));
    const design = { ...whole, values };
    const project = withDesign(given, design);
    const before = response(project, 'modelled', [f0]);
    const tuned = response(withDesign(project, retune(project, design).design), 'modelled', [f0]);
    const uneven = (d: typeof tuned) => Math.abs(dBat(d, 2) - dBat(d, 3));
    expect(uneven(tuned)).toBeLessThan(0.6);
    expect(uneven(tuned)).toBeLessThan(0.7 * uneven(before));
    expect(dBat(tuned, 1)).toBeGreaterThan(dBat(before, 1) + 3);
  });

  it('a reflectometer reads the reflection of what it looks at', () => {
    for (const zl of ['75 ohm', '20-30j ohm']) {
      const { project, design } = made('reflectometer', { zl, sections: '1' });
      const rho = resolveDesign(project, design).values.get('rho')!.re;
      const d = response(project, 'ideal', [f0]);
      // On its way there the wave has left 1 % of its power in the coupler.
      expect(size(ratio(d, 3, 2, 1)) / rho).toBeCloseTo(Math.sqrt(0.99), 6);
    }
  });
});

describe('the reading of a coupler', () => {
  it('knows the coupled port by how little the isolated one gets, and a hybrid for none', () => {
    const weak = made('coupler', { coupling: '40 dB', sections: '1' }, laminates[0], 'stripline').project;
    const { roles, coupling, band } = read(weak, 'ideal');
    expect(roles.coupled).toBe(2);
    expect(coupling).toBeCloseTo(40, 9);
    // sin(theta) is down by 1 dB at 63 degrees.
    expect(band.low / f0).toBeCloseTo(Math.asin(Math.pow(10, -1 / 20)) / (Math.PI / 2), 3);
    expect(band.open).toBe(false);
    const hybrid = response(made('branch-line').project, 'ideal', [f0]);
    expect(rolesOf(hybrid, f0)).toEqual({ ports: 4, outputs: [1, 2], isolated: [3] });
    expect(dB(size(entry(hybrid, 3, 1)))).toBeCloseTo(3.0103, 3);
  });
});
