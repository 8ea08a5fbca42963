import { describe, expect, it } from 'vitest';
import { layOut } from '../src/artwork';
import { answer, excerptSubject, NotSolvable, solvedSteps, solvedSubject } from '../src/levels';
import { circuitOf, frequencies, resolveDesign, simulate } from '../src/network';
import { drive } from '../src/numeric';
import { pieceSteps, solvingHere } from '../src/studies/solved';
import { made } from './helpers';

const of = (id: string, inputs: Record<string, string> = {}) => {
  const { project, design } = made(id, { freq: '10.55 GHz', ...inputs });
  return { project, design, resolved: resolveDesign(project, design) };
};
const rms = (a: { re: Float64Array; im: Float64Array }, b: typeof a): number =>
  Math.sqrt(a.re.reduce((sum, x, i) => sum + (x - b.re[i]) ** 2 + (a.im[i] - b.im[i]) ** 2, 0) / a.re.length);

describe('pieces of a design solved by themselves', () => {
  it('have ports where lines go on, with planes at their pins', () => {
    const { resolved } = of('branch-line');
    const tee = resolved.pieces.find((p) => p.kind === 'tee')!;
    const { copper, nodes, rest } = excerptSubject(resolved, new Set([tee.id]))!;
    expect(nodes).toEqual(tee.nodes);
    expect(rest.pieces.length).toBe(resolved.pieces.length - 1);
    const h = resolved.stack!.substrate.height;
    copper.ports.forEach(({ edge: [a, b], plane }, pin) => {
      // As wide as the line that goes on, so far from the joint as the plane lies inside.
      expect(Math.hypot(a[0] - b[0], a[1] - b[1])).toBeCloseTo(tee.values![`w${pin + 1}`].re, 9);
      expect(Math.hypot((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)).toBeCloseTo(plane, 9);
      expect(plane).toBeGreaterThan(3 * h);
    });
    const pair = of('coupler', { coupling: '20 dB' }).resolved;
    const strips = pair.pieces.find((p) => p.kind === 'line-pair')!;
    expect(() => excerptSubject(pair, new Set([strips.id]))).toThrow(NotSolvable);
  });

  it('put in their place say what the whole copper says where pieces do not couple', () => {
    const { project, design, resolved } = of('lowpass-stepped', { freq: '6 GHz', order: '3' });
    const freq = frequencies(3e9, 9e9, 13);
    const find = () => undefined;
    const modelled = simulate(circuitOf(resolved, 'modelled')!, freq, find);
    const whole = drive(
      solvedSteps(solvedSubject(resolved, layOut(resolved))!, find, freq, { accuracy: 'draft' }),
    ).data;
    // Everything but the feeds as one excerpt.
    const ids = new Set(
      resolved.pieces.filter((p) => p.kind !== 'port' && p.role !== 'feed').map((p) => p.id),
    );
    const subject = excerptSubject(resolved, ids)!;
    const { samples } = drive(solvingHere('draft')(subject, { start: 3e9, stop: 9e9 }));
    const joined = drive(
      answer({ ...subject.rest, solved: { key: '', nodes: subject.nodes, samples } }, find).sample(freq),
    );
    expect(rms(joined, whole)).toBeLessThan(0.012);
    expect(rms(joined, whole)).toBeLessThan(0.5 * rms(modelled, whole));
    // One after the other they are ranked by what they change.
    const found = drive(pieceSteps(project, design))!;
    expect(found.pieces.length).toBeGreaterThanOrEqual(4);
    const changes = found.pieces.map((p) => p.change!);
    expect(changes).toEqual([...changes].sort((a, b) => b - a));
    expect(changes[0]).toBeGreaterThan(2e-3);
  });
});
