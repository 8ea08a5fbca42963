import { describe, expect, it } from 'vitest';
import { readProject, writeProject } from '../src/formats';
import { analyseSection, lineKinds } from '../src/lines';
import {
  crosstalk,
  emptyProject,
  resolveSheet,
  sheetShapes,
  withEntry,
  type Project,
  type SheetShapeId,
} from '../src/network';
import { laminates } from '../src/stack';

const looking = (
  shape: Exclude<SheetShapeId, 'strip'>,
  held: Readonly<Record<string, string>>,
  system?: string,
  medium: 'microstrip' | 'stripline' = 'microstrip',
): Project => {
  const project = emptyProject('x', laminates[0]);
  const line = withEntry({ ...project.line, shape, medium }, shape, { held, ...(system && { system }) });
  return { ...project, line };
};
const of = (...args: Parameters<typeof looking>) => resolveSheet(looking(...args));
const mm = (x: number) => `${x * 1e3} mm`;

describe('a pair on the Lines page', () => {
  it.each(['microstrip', 'stripline'] as const)(
    'in %s is the same whichever way it is asked for',
    (medium) => {
      const start = of('pair', { ze: '58 ohm', zo: '43 ohm', theta: '60 deg' }, 'modes', medium);
      expect(start.errors).toEqual({});
      const v = start.values!;
      const w = mm(v.width.re);
      const s = mm(v.gap.re);
      const ways: [Record<string, string>, string][] = [
        [{ width: w, gap: s, theta: '60 deg' }, 'modes'],
        [{ width: w, zo: '43 ohm', length: mm(v.length.re) }, 'modes'],
        [{ ze: '58 ohm', gap: s, theta: '60 deg' }, 'modes'],
        [{ z0: `${v.z0.re} ohm`, coupling: `${v.coupling.re} dB`, theta: '60 deg' }, 'coupling'],
        [{ width: w, coupling: `${v.coupling.re} dB`, theta: '60 deg' }, 'coupling'],
        [{ z0: `${v.z0.re} ohm`, gap: s, theta: '60 deg' }, 'coupling'],
        [{ common: '29 ohm', differential: '86 ohm', length: mm(v.length.re) }, 'differential'],
        [{ width: w, differential: '86 ohm', theta: '60 deg' }, 'differential'],
      ];
      for (const [held, system] of ways) {
        const back = of('pair', held, system, medium);
        expect(back.errors).toEqual({});
        for (const [face, { re }] of Object.entries(v))
          expect(Math.abs(back.values![face].re / re - 1)).toBeLessThan(3e-6);
      }
    },
  );

  it('says at the face what cannot be', () => {
    const wrong = (held: Record<string, string>, system: string) => of('pair', held, system).errors;
    expect(wrong({ ze: '40 ohm', zo: '50 ohm', theta: '90 deg' }, 'modes').zo).toMatch(/more even than odd/);
    expect(wrong({ z0: '50 ohm', coupling: '0 dB', theta: '90 deg' }, 'coupling').coupling).toMatch(
      /greater than zero/,
    );
    expect(wrong({ width: '1 mm', coupling: '0.1 dB', theta: '90 deg' }, 'coupling').coupling).toMatch(
      /no gap between strips of this width gives the pair 0.1 dB coupling/,
    );
    expect(wrong({ z0: '50 ohm', coupling: '3 mm', theta: '90 deg' }, 'coupling').coupling).toMatch(/level/);
  });

  it('hears of the other line what a directional coupler does', () => {
    // A quarter wave between two grounds couples (ze - zo)/(ze + zo) backwards and nothing forwards.
    const { analysis, values, freq } = of(
      'pair',
      { z0: '50 ohm', coupling: '20 dB', theta: '90 deg' },
      'coupling',
      'stripline',
    );
    const lossless = analysis!.modes.map((m) => ({ ...m, lossConductor: 0, lossDielectric: 0 }));
    const heard = crosstalk(lossless, values!.length.re, freq!);
    expect(heard.near).toBeCloseTo(20, 6);
    expect(heard.far).toBeGreaterThan(150);
    expect(heard.worst).toBeCloseTo(20, 6);
    const longer = crosstalk(lossless, 2 * values!.length.re, freq!);
    expect(longer.near).toBeGreaterThan(150);
    expect(longer.worst).toBeCloseTo(20, 6);
  });
});

describe('a coplanar line on the Lines page', () => {
  it.each(['coplanar', 'grounded'] as const)('%s: width from slot, slot from width', (shape) => {
    const first = of(shape, { z0: '60 ohm', slot: '0.15 mm', theta: '45 deg' }, 'slot');
    expect(first.errors).toEqual({});
    const second = of(shape, { z0: '60 ohm', width: mm(first.values!.width.re), theta: '45 deg' }, 'width');
    expect(second.values!.slot.re).toBeCloseTo(0.15e-3, 9);
    const kind = lineKinds[shape === 'grounded' ? 'grounded-coplanar' : 'coplanar'];
    const { modes } = analyseSection(
      kind,
      first.stack!.substrate,
      [first.values!.width.re, 0.15e-3],
      first.freq!,
    );
    expect(modes[0].z0).toBeCloseTo(60, 8);
    expect(first.origin!.error).toBeLessThan(5e-4);
    // The maps of the parts know no thickness: they are off by per cents, not by tens.
    expect(Math.abs(first.origin!.closed!.z0)).toBeLessThan(0.12);
  });
});

describe('the sheet of every shape', () => {
  it('is written and read, and a shape keeps its entries while another is looked at', () => {
    const project = looking('pair', { z0: '50 ohm', coupling: '12 dB', theta: '90 deg' }, 'coupling');
    const back = readProject(writeProject(project));
    expect(back.line).toEqual(project.line);
    const strip = { ...back, line: { ...back.line, shape: undefined } };
    expect(resolveSheet(strip).values!.z0.re).toBeCloseTo(50, 9);
    expect(
      resolveSheet({ ...strip, line: { ...strip.line, shape: 'pair' } }).values!.coupling.re,
    ).toBeCloseTo(12, 6);
  });

  it('begins with a line that can be made, and says where it comes from', () => {
    for (const shape of Object.values(sheetShapes)) {
      const project = emptyProject('x', laminates[0]);
      const line = shape.id === 'strip' ? project.line : { ...project.line, shape: shape.id };
      const resolved = resolveSheet({ ...project, line });
      expect(resolved.errors).toEqual({});
      expect(resolved.values!.length.re).toBeGreaterThan(0);
      expect(resolved.origin!.answers).toMatch(/solution/);
      expect(resolved.origin!.error).toBeLessThan(1e-3);
    }
  });
});
