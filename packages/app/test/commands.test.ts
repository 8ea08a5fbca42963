import 'fake-indexeddb/auto';
import fc from 'fast-check';
import { beforeAll, describe, expect, it } from 'vitest';
import { layOut } from '@ditch/core/artwork';
import { readProject, writeProject } from '@ditch/core/formats';
import { levels } from '@ditch/core/levels';
import {
  circuitOf,
  dataFinder,
  resolveDesign,
  simulate,
  type Design,
  type Project,
} from '@ditch/core/network';
import { review } from '@ditch/core/review';
import demo from '../../../examples/ditchwater.ditch.json';
import { addProject, openProject, undo, useSession } from '../src/store/session';
import { setPlots } from '../src/views/edits';
import { nodeCommands, pieceCommands } from '../src/views/design/growing';
import { influenceOf } from '../src/views/design/reading';
import { difference } from '../src/views/design/Waterline';

const project = (): Project => useSession.getState().project!;
const designAt = (i: number): Design => project().designs[i];
const nothing = () => undefined;

beforeAll(async () => {
  await openProject(await addProject({ ...readProject(JSON.stringify(demo)), id: 'commands' }));
});

describe('what can be done on the copper', () => {
  const designs = demo.designs.length;

  it('leads from every place to a document that can be worked out, drawn, reviewed and stored, and back by one undo', () => {
    let ran = 0;
    fc.assert(
      fc.property(fc.nat(designs - 1), fc.nat(), fc.nat(), fc.boolean(), (d, place, choice, atNode) => {
        const before = designAt(d);
        const nodes = [...new Set(before.pieces.flatMap((p) => p.nodes))].filter((n) => n !== 'ground');
        const piece = before.pieces[place % before.pieces.length];
        const list = (
          atNode
            ? nodeCommands(project(), before, nodes[place % nodes.length], nothing)
            : pieceCommands(before, piece.id, 5e-3, nothing)
        ).filter((c) => !c.disabled);
        expect(new Set(list.map((c) => c.id)).size).toBe(list.length);
        const command = list[choice % list.length];
        const whole = project();
        command.run();
        const after = designAt(d);
        if (project() === whole) return;
        ran++;
        const resolved = resolveDesign(project(), after);
        const layout = layOut(resolved);
        for (const { x, y } of layout.pieces.flatMap((p) => [...p.copper.flat(), ...p.pins]))
          expect(Number.isFinite(x) && Number.isFinite(y)).toBe(true);
        const remarks = review(project(), after, resolved, layout);
        const circuit = circuitOf(resolved, 'modelled');
        // What cannot be simulated is said; what can be gives numbers.
        if (!circuit) expect(remarks.some((r) => r.severity === 'error')).toBe(true);
        else {
          const s = simulate(circuit, Float64Array.of(10e9), dataFinder(project().data));
          expect([...s.re, ...s.im].every(Number.isFinite)).toBe(true);
        }
        expect(readProject(writeProject(project())).designs[d]).toEqual(JSON.parse(JSON.stringify(after)));
        undo();
        expect(designAt(d)).toEqual(before);
      }),
      { numRuns: 100 },
    );
    expect(ran).toBeGreaterThan(50);
  });

  it('lets the Smith chart look from a pin, adding one where none is shown, and from port 1 again', () => {
    const { id, pieces } = designAt(0);
    setPlots(id, 'arrange', [{ id: 'm', show: 'match' }]);
    const run = (name: string) =>
      nodeCommands(project(), designAt(0), pieces[1].nodes[1], nothing)
        .find((c) => c.id === name)!
        .run();
    run(`look-${pieces[1].id}-1`);
    const [, smith] = designAt(0).plots!;
    expect(smith).toMatchObject({ show: 'smith', look: { piece: pieces[1].id, pin: 1 } });
    run('look-port');
    expect(designAt(0).plots![1].look).toBeUndefined();
    for (let i = 0; i < 3; i++) undo();
    expect(designAt(0)).toEqual(JSON.parse(JSON.stringify(demo.designs[0])));
    // A design that nobody has arranged keeps its usual plots beside it.
    run(`look-${pieces[1].id}-1`);
    expect(designAt(0).plots!.map((p) => p.show)).toEqual(['match', 'smith']);
    undo();
  });
});

describe('what the page reads out of a response', () => {
  it('shows the influence of a piece by making it two per cent longer or larger, and nothing else', () => {
    for (const design of project().designs) {
      const resolved = resolveDesign(project(), design);
      const circuit = circuitOf(resolved, 'modelled')!;
      for (const piece of resolved.pieces) {
        const changed = influenceOf(circuit, resolved, piece.id);
        const has = ['length', 'r', 'c', 'l'].some((face) => piece.values?.[face]);
        expect([piece.kind, changed !== undefined]).toEqual([piece.kind, has]);
        if (!changed) continue;
        const differ = changed.pieces.filter((p, i) => p !== circuit.pieces[i]);
        expect(differ).toHaveLength(1);
      }
    }
    expect(influenceOf(undefined, resolveDesign(project(), designAt(0)), 'x')).toBeUndefined();
  });

  it('says in words how far the modelled match lies from the ideal one', () => {
    const band = (low: number, high: number) => ({ low, high, openLow: false, openHigh: false });
    const ideal = { best: 10e9, level: -60, band: band(9.5e9, 10.5e9) };
    const read = (...matches: readonly (typeof ideal | undefined)[]) =>
      difference(matches.map((match, i) => ({ level: levels[i], match })));
    const says = (modelled: Partial<typeof ideal>) => read(ideal, { ...ideal, ...modelled });
    expect(says({})).toBe('the centre stays, band as ideal');
    expect(says({ best: 9.8e9 })).toMatch(/^centre 9\.8\sGHz, 2 % below ideal, band as ideal$/);
    expect(says({ band: band(9.6e9, 10.4e9) })).toBe('the centre stays, band 20 % narrower');
    expect(says({ band: undefined })).toBe('the centre stays; the goal is lost');
    expect(says({ level: -1 })).toBe('');
    expect(read(undefined, ideal)).toBe('');
  });
});
