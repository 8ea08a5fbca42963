import { describe, expect, it } from 'vitest';
import { clipOf, grow, holdSide, mirrorPieces, paste, replacePiece, sideHeld, splitLine } from '../src/grow';
import {
  emptyDesign,
  inDesign,
  resolveDesign,
  usedNames,
  withOwnBoard,
  type Design,
  type Project,
} from '../src/network';
import { recipes } from '../src/recipes';
import { review } from '../src/review';
import { laminates } from '../src/stack';
import { alike, retune, tunables, tuned } from '../src/studies';
import { made, withDesign } from './helpers';

const resolved = (project: Project) => resolveDesign(project, project.designs[0]);
const onBoard = (project: Project, er: string): Project => ({
  ...project,
  stacks: project.stacks.map((s) => ({ ...s, er })),
});
/** Widths and lengths of everything that has them, to a nanometre, as text holds them. */
const copperOf = (project: Project) =>
  resolved(project).pieces.map((p) =>
    [p.values?.width?.re, p.values?.length?.re].map((x) => (x === undefined ? '' : (x * 1e6).toFixed(3))),
  );
const impedancesOf = (project: Project) =>
  resolved(project).pieces.map((p) => p.values?.z0?.re.toPrecision(6) ?? '');

describe('holding one side of a design', () => {
  it.each(['quarter-wave', 'single-stub', 'branch-line', 'wilkinson', 'bias-feed'])(
    '%s: held copper stays on another board, and the electrical side comes back as it was',
    (id) => {
      const { project, design } = made(id);
      expect(sideHeld(design)).toBe('electrical');
      const copper = holdSide(design, resolved(project), 'physical');
      expect(sideHeld(copper)).toBe('physical');
      const held = withDesign(project, copper);
      expect(copperOf(held)).toEqual(copperOf(project));
      // A batch of laminate with more permittivity: the copper stays, the impedances fall.
      const other = onBoard(held, '3.2');
      expect(copperOf(other)).toEqual(copperOf(project));
      expect(impedancesOf(other)).not.toEqual(impedancesOf(project));
      expect(copperOf(onBoard(project, '3.2'))).not.toEqual(copperOf(project));
      const later = {
        ...copper,
        values: copper.values.map((v) => (v.name === 'f0' ? { ...v, value: '9 GHz' } : v)),
      };
      expect(copperOf(withDesign(project, later))).toEqual(copperOf(project));
      // Nothing that is remembered counts as unused, and nothing is questioned for being held.
      expect(usedNames(copper)).toEqual(usedNames(design));
      expect(review(held, copper, resolved(held)).map((r) => r.message)).toEqual(
        review(project, design, resolved(project)).map((r) => r.message),
      );
      const back = holdSide(copper, resolved(held), 'electrical');
      expect(back.pieces.map((p) => p.held)).toEqual(design.pieces.map((p) => p.held));
      expect(sideHeld(back)).toBe('electrical');
    },
  );

  it('keeps what is remembered through splitting, mirroring and copying', () => {
    const { project, design } = made('wilkinson');
    const held = holdSide(design, resolved(project), 'physical');
    const arm = 'arm2';
    const back = (d: Design) =>
      holdSide(d, resolveDesign(withDesign(project, d), d), 'electrical').pieces.filter(
        (p) => p.role === 'arm',
      );
    const split = splitLine(held, arm, 0.25).design;
    expect(back(split).map((p) => p.held.theta)).toEqual(['22.5 deg', '67.5 deg', '90 deg']);
    const mirrored = back(mirrorPieces(held, [arm]))[0].held.turn;
    expect(mirrored).toBe(mirrorPieces(design, [arm]).pieces.find((p) => p.id === arm)!.held.turn);
    const copy = paste(
      { ...design, values: design.values.map((v) => (v.name === 'za' ? { ...v, value: '80 ohm' } : v)) },
      clipOf(held, [arm], held.pieces.find((p) => p.id === arm)!.nodes[0]),
      undefined,
    ).design;
    expect(copy.pieces.at(-1)!.marks).toMatchObject({ asked: { z0: 'za_2' } });
    expect(copy.values.find((v) => v.name === 'za_2')?.value).toBe('sqrt(2)*z0');
  });

  it('holds what was copper from the start at its present electrical value', () => {
    const { project, design } = made('quarter-wave');
    const own = replacePiece(design, 'section1', (p) => ({
      ...p,
      held: { width: '0.5 mm', length: '4 mm' },
    }));
    expect(sideHeld(own)).toBe('physical');
    const before = withDesign(project, own);
    const after = withDesign(project, holdSide(own, resolved(before), 'electrical'));
    const [a, b] = [before, after].map((p) => resolved(p).pieces.find((x) => x.id === 'section1')!.values!);
    expect(after.designs[0].pieces.find((p) => p.id === 'section1')!.held.z0).toMatch(/ohm$/);
    expect(b.z0.re).toBeCloseTo(a.z0.re, 6);
    expect(b.length.re).toBeCloseTo(a.length.re, 9);
  });
});

describe('boards', () => {
  it('that ship become the project\u2019s own when they are changed, for all who stand on them', () => {
    const { project } = made('branch-line');
    const { project: own, id } = withOwnBoard(project, laminates[0].id);
    expect(id).not.toBe(laminates[0].id);
    expect(own.stacks).toEqual([{ ...laminates[0], id }]);
    expect([own.line.stack, own.designs[0].stack]).toEqual([id, id]);
    expect(withOwnBoard(own, id)).toEqual({ project: own, id });
    // The same by hand on the tuning strip.
    const er = tunables(project, project.designs[0], resolved(project)).find((t) => t.key === 'stack:er')!;
    const moved = tuned(project, project.designs[0].id, er, 3.1);
    expect(moved.stacks[0]).toMatchObject({ name: laminates[0].name, er: '3.1' });
    expect(moved.stacks[0].id).not.toBe(laminates[0].id);
    expect(resolved(moved).problems).toEqual([]);
  });
});

describe('ports', () => {
  const grown = (): Project => {
    let at = grow(emptyDesign('d', laminates[0].id, 'microstrip', '10 GHz'), undefined, 'port');
    at = grow(at.design, at.node, 'line');
    const narrow = replacePiece(at.design, at.piece, (p) => ({
      ...p,
      held: { z0: '35.36 ohm', theta: '90 deg' },
    }));
    return withDesign(made('branch-line').project, grow(narrow, at.node, 'port').design);
  };

  it('take the reference of the first one, not the impedance of the line they meet', () => {
    const ports = grown().designs[0].pieces.filter((p) => p.kind === 'port');
    expect(ports.map((p) => p.held.z)).toEqual(['50 ohm', '50 ohm']);
  });

  it('of different references are questioned, unless a recipe or the engineer means them so', () => {
    const project = grown();
    const [design] = project.designs;
    const second = design.pieces.find((p) => p.settings?.number === '2')!;
    const other = withDesign(
      project,
      replacePiece(design, second.id, (p) => ({ ...p, held: { z: '35.36 ohm' } })),
    );
    const asked = (p: Project) =>
      review(p, p.designs[0], resolved(p)).filter((r) => /reference/.test(r.message));
    expect(asked(project)).toEqual([]);
    const [remark] = asked(other);
    expect(remark.message).toMatch(/^port 2: the reference is 35\.36/);
    for (const { label, apply } of remark.remedies!) {
      expect(asked(apply(other))).toEqual([]);
      const z = apply(other).designs[0].pieces.find((p) => p.id === second.id)!.held.z;
      expect(z).toBe(label === 'It is meant so' ? '35.36 ohm' : '50 ohm');
    }
    for (const recipe of recipes.values()) {
      const own = made(recipe.id, recipe.fields.some((f) => f.name === 'ratio') ? { ratio: '2' } : {});
      expect(asked(own.project)).toEqual([]);
    }
  });
});

describe('symmetry', () => {
  const classes = (design: Design) => {
    const found = new Map<number, string[]>();
    for (const [id, c] of alike(design)) found.set(c, [...(found.get(c) ?? []), id]);
    return [...found.values()].filter((ids) => ids.length > 1).map((ids) => ids.sort().join(' '));
  };

  it('is seen where a network has it, and not where it only looks like it', () => {
    const hybrid = classes(made('branch-line').design);
    expect(hybrid.some((c) => (c.match(/branch/g) ?? []).length === 2)).toBe(true);
    expect(hybrid.some((c) => (c.match(/through/g) ?? []).length === 2)).toBe(true);
    expect(classes(made('wilkinson').design)).toContain('arm2 arm3');
    expect(classes(made('wilkinson', { ratio: '2' }).design).join()).not.toContain('arm2 arm3');
    // Three equal quarter waves of a ring, of which the middle one lies elsewhere.
    expect(classes(made('rat-race').design).every((c) => (c.match(/\barc|quarter/g) ?? []).length < 3)).toBe(
      true,
    );
  });

  it.each(['branch-line', 'wilkinson'])('of a %s survives retuning', (id) => {
    const { project, design } = made(id);
    const { design: after, moved } = retune(project, design);
    expect(moved.length).toBeGreaterThan(0);
    for (const group of classes(design)) {
      const held = group
        .split(' ')
        .map((piece) => after.pieces.find((p) => p.id === piece)!.held)
        .map(({ trim, widen }) => ({ trim, widen }));
      for (const other of held) expect(other).toEqual(held[0]);
    }
    expect(inDesign(project, design.id, () => after).designs[0]).toBe(after);
  });
});
