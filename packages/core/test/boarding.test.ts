import { describe, expect, it } from 'vitest';
import { readProject, writeProject } from '../src/formats';
import { analyseLine, analyseSection, crossSections } from '../src/lines';
import { emptyProject, resolveDesign } from '../src/network';
import { solveStrip } from '../src/section';
import { laminates, resolveStack, type Stack } from '../src/stack';
import { bendingOf } from '../src/studies';
import { EPS0 } from '../src/numeric';
import { made } from './helpers';

const stackWith = (change: Partial<Stack>): Stack => ({ ...laminates[0], roughness: '0 um', ...change });
const substrateOf = (change: Partial<Stack>, medium: 'microstrip' | 'stripline' = 'microstrip') =>
  resolveStack(stackWith(change), medium).value!.substrate;

describe('a board wrapped round a cylinder', () => {
  it('across its lines is what the logarithm makes of it: a whole turn of strip is a coaxial line', () => {
    // A strip that goes all the way round the dielectric: C = 2 pi e / ln((R + h)/R), by its mapped height alone.
    const [h, radius] = [0.5e-3, 2e-3];
    const { height } = substrateOf({ height: '0.5 mm', thickness: '0 um', bentAcross: '2 mm' });
    const width = 2 * Math.PI * (radius + h);
    expect((EPS0 * width) / height / ((2 * Math.PI * EPS0) / Math.log((radius + h) / radius))).toBeCloseTo(
      1,
      12,
    );
    // Copper inside the cylinder: the other way round.
    const inner = substrateOf({ height: '0.5 mm', thickness: '0 um', bentAcross: '-2 mm' });
    const turn = 2 * Math.PI * (radius - h);
    expect(
      (EPS0 * turn) / inner.height / ((2 * Math.PI * EPS0) / Math.log(radius / (radius - h))),
    ).toBeCloseTo(1, 12);
  });

  it('goes over into the flat one as the radius grows, with its lid, and says what cannot be', () => {
    const flat = substrateOf({ cover: '2 mm' });
    for (const field of ['bentAcross', 'bentAlong'] as const)
      for (const sign of [1, -1]) {
        const far = substrateOf({ cover: '2 mm', [field]: `${sign * 5000} m` });
        for (const key of ['height', 'thickness', 'cover'] as const)
          expect(far[key] / flat[key]).toBeCloseTo(1, 6);
        const near = substrateOf({ [field]: `${sign * 10} mm` });
        const z = (s: typeof flat) => analyseLine('microstrip', s, 1.2e-3, 5e9);
        if (field === 'bentAcross') expect(Math.sign(z(near).z0 - z(substrateOf({})).z0)).toBe(sign);
        // Around the cylinder copper outside has become longer, copper inside shorter.
        else expect(Math.sign(z(substrateOf({})).wavelength - z(near).wavelength)).toBe(sign);
      }
    const { problems } = resolveStack(stackWith({ bentAcross: '1 mm' }), 'microstrip');
    expect(problems[0]).toMatchObject({
      field: 'bentAcross',
      message: expect.stringMatching(/at least 3 heights/) as string,
    });
  });

  it('moves the response of copper that stays, which is said', () => {
    const { project, design } = made('quarter-wave', { load: '120 ohm', sections: '1' });
    expect(bendingOf(project, design)).toBeUndefined();
    const bend = (change: Partial<Stack>) =>
      bendingOf({ ...project, stacks: project.stacks.map((s) => ({ ...s, ...change })) }, design)!;
    const along = bend({ bentAlong: '5 mm' });
    // (R + h)/(R + h/2) = 1.048: the bent copper is longer, so flat it would be above where it is now.
    expect(along.flat.best / along.bent.best).toBeCloseTo(5.508 / 5.254, 2);
    const file = { ...project, stacks: [stackWith({ bentAcross: '12 mm', offCentre: '0.1 mm' })] };
    const other = { ...emptyProject('x', file.stacks[0]), stacks: file.stacks };
    expect(readProject(writeProject(other)).stacks).toEqual(file.stacks);
    expect(resolveDesign(file, { ...design, stack: file.stacks[0].id }).problems).toEqual([]);
  });
});

describe('a strip off the middle between its planes', () => {
  it('agrees with the field solution of where it lies, thin and thick, single and in pairs', () => {
    for (const thickness of ['0 um', '35 um']) {
      const at = (offCentre: string) => substrateOf({ height: '1 mm', thickness, offCentre }, 'stripline');
      const low = at('0.25 mm');
      const t = low.thickness;
      const [{ value }] = solveStrip(
        0.6e-3,
        t,
        { ground: 0.5e-3 - t / 2 - 0.25e-3, cover: 0.5e-3 + t / 2 + 0.25e-3 },
        [{ below: low.er, above: low.er }],
      );
      const { z0 } = analyseLine('stripline', low, 0.6e-3, 1e9);
      expect(Math.sqrt(low.er) / (299792458 * value) / z0).toBeCloseTo(1, 4);
      // Nearer to one plane the impedance falls; hardly moved, hardly.
      const middle = analyseLine('stripline', at(''), 0.6e-3, 1e9).z0;
      expect(z0).toBeLessThan(0.95 * middle);
      expect(analyseLine('stripline', at('1 um'), 0.6e-3, 1e9).z0 / middle).toBeCloseTo(1, 3);
      // A pair far apart is two single strips.
      const { modes } = analyseSection(crossSections.pair.stripline, low, [0.6e-3, 6e-3], 1e9);
      for (const m of modes) expect(m.z0 / z0).toBeCloseTo(1, 3);
      // Loss rises where the current crowds towards the near plane.
      const loss = (s: typeof low) => analyseLine('stripline', s, 0.6e-3, 1e9).lossConductor;
      expect(loss(low)).toBeGreaterThan(loss(at('')));
    }
    expect(
      resolveStack(stackWith({ height: '1 mm', offCentre: '0.6 mm' }), 'stripline').problems[0].field,
    ).toBe('offCentre');
    expect(resolveStack(stackWith({ height: '1 mm', offCentre: '0.6 mm' }), 'microstrip').problems).toEqual(
      [],
    );
  });
});
