import { describe, expect, it } from 'vitest';
import { layOut } from '../src/artwork';
import {
  beyond,
  clipBranch,
  foldLine,
  grow,
  GrowError,
  joinNodes,
  launchAll,
  mirrorPieces,
  openNodes,
  paste,
  removePiece,
  renameNode,
  replaceBy,
  replacePiece,
  separatePin,
  shareOf,
  splitLine,
  withoutLaunches,
} from '../src/grow';
import {
  circuitOf,
  emptyDesign,
  emptyProject,
  frequencies,
  resolveDesign,
  type Design,
} from '../src/network';
import { review } from '../src/review';
import { laminates } from '../src/stack';
import { closeRings, passageOf, pathArc } from '../src/studies';
import { entry, made, pieceOf, response, size, withDesign } from './helpers';

const f0 = 10e9;
const blank = (): Design => emptyDesign('by hand', laminates[0].id, 'microstrip', '10 GHz');
const project = (design: Design) => ({ ...emptyProject('t'), designs: [design] });
const layout = (design: Design) => layOut(resolveDesign(project(design), design));
const held = (design: Design, piece: string, more: Record<string, string>) =>
  replacePiece(design, piece, (p) => {
    const kept = { ...p.held };
    for (const face of Object.keys(more))
      for (const group of [
        ['z0', 'width'],
        ['theta', 'length'],
      ])
        if (group.includes(face)) for (const f of group) delete kept[f];
    return { ...p, held: { ...kept, ...more } };
  });

/** Grows a Wilkinson divider as an engineer would, pin by pin. */
function wilkinsonByHand(): Design {
  let at = grow(blank(), undefined, 'port');
  at = grow(at.design, at.node, 'line');
  const tee = grow(at.design, at.node, 'tee-head');
  const [down, up] = tee.design.pieces.find((p) => p.id === tee.piece)!.nodes;
  let design = tee.design;
  const pads: string[] = [];
  for (const [node, turn, side] of [
    [up, '-140 deg', 'left'],
    [down, '140 deg', 'right'],
  ] as const) {
    const arm = grow(design, node, 'line');
    design = held(arm.design, arm.piece, { z0: '70.7106781186547 ohm', theta: '90 deg', turn });
    const end = grow(design, arm.node, `tee-${side}`);
    const [, pad, out] = end.design.pieces.find((p) => p.id === end.piece)!.nodes;
    pads.push(pad);
    const feed = grow(end.design, out, 'line');
    design = grow(held(feed.design, feed.piece, { z0: '50 ohm', length: '4 mm' }), feed.node, 'port').design;
  }
  const resistor = grow(design, pads[0], 'resistor');
  return joinNodes(resistor.design, pads[1], resistor.node!);
}

describe('growing', () => {
  it('makes a Wilkinson divider from an empty design, as exact as the recipe', () => {
    const design = wilkinsonByHand();
    expect(openNodes(design)).toEqual([]);
    const ports = design.pieces.filter((p) => p.kind === 'port').map((p) => p.settings?.number);
    expect(ports.sort()).toEqual(['1', '2', '3']);
    const d = response(project(design), 'ideal', [f0]);
    for (let i = 1; i <= 3; i++) expect(size(entry(d, i, i))).toBeLessThan(1e-9);
    expect(size(entry(d, 3, 2))).toBeLessThan(1e-9);
    expect(size(entry(d, 2, 1)) ** 2).toBeCloseTo(0.5, 9);
  });

  it('takes the impedance of the line it meets, through junctions too', () => {
    let at = grow(blank(), undefined, 'port');
    at = grow(at.design, at.node, 'line');
    const line = held(at.design, at.piece, { width: '0.9 mm' });
    const tee = grow(line, at.node, 'tee-left');
    const on = grow(tee.design, tee.node, 'line');
    expect(on.design.pieces.find((p) => p.id === on.piece)!.held.width).toBe('0.9 mm');
    const stub = grow(tee.design, tee.node, 'open-stub');
    expect(stub.design.pieces.find((p) => p.id === stub.piece)!.held).toEqual({
      width: '0.9 mm',
      theta: '45 deg',
    });
  });

  it('goes between what is joined, and branches off by a tee', () => {
    let at = grow(blank(), undefined, 'port');
    at = grow(at.design, at.node, 'line');
    const first = at.piece;
    at = grow(at.design, at.node, 'port');
    const joint = at.design.pieces.find((p) => p.id === first)!.nodes[1];
    const between = grow(at.design, joint, 'line');
    expect(response(project(between.design), 'ideal', [f0]).re[2]).toBeCloseTo(-1, 9);
    const branched = grow(at.design, joint, 'shorted-stub');
    expect(branched.design.pieces.map((p) => p.kind)).toEqual([
      'port',
      'line',
      'tee',
      'shorted-stub',
      'port',
    ]);
    expect(openNodes(branched.design)).toEqual([]);
  });

  it('splits, folds, replaces and removes without changing what the network does', () => {
    const { project: p, design } = made('wilkinson');
    const freq = frequencies(5e9, 15e9, 7);
    const before = response(p, 'ideal', freq);
    const same = (changed: Design) => {
      const after = response(withDesign(p, changed), 'ideal', freq);
      after.re.forEach((x, i) => {
        expect(x).toBeCloseTo(before.re[i], 9);
        expect(after.im[i]).toBeCloseTo(before.im[i], 9);
      });
    };
    const split = splitLine(design, 'arm2', 0.3);
    same(split.design);
    expect(split.design.pieces).toHaveLength(design.pieces.length + 1);
    const folded = foldLine(design, 'feed1');
    expect(folded.design.pieces.filter((x) => x.kind === 'bend')).toHaveLength(4);
    same(folded.design);
    // Straight on in the end: the fold leaves the direction as it was.
    const angles = (d: Design) => layout(d).nodes.get('in')!.angle;
    expect(Math.cos(angles(folded.design) - angles(design))).toBeCloseTo(1, 9);
    const stepped = grow(design, 'p1', 'step').design;
    same(stepped);
    same(removePiece(stepped, stepped.pieces.find((x) => x.kind === 'step')!.id));
    const cross = replaceBy(design, 'tee1', 'joint-3');
    expect(cross.design.pieces.find((x) => x.id === 'tee1')!.nodes).toEqual(
      design.pieces.find((x) => x.id === 'tee1')!.nodes,
    );
    same(cross.design);
    expect(() => splitLine(design, 'tee1', 0.5)).toThrow(GrowError);
    expect(() => splitLine(design, 'arm2', 1)).toThrow(GrowError);
    expect(() => foldLine(design, 'arm2')).toThrow(/straight/);
    expect(() => grow(design, 'nowhere', 'line')).toThrow(GrowError);
    expect(() => joinNodes(design, 'in', 'in')).toThrow(GrowError);
  });

  it('leaves what a removed piece stood between joined, or open where that is asked for', () => {
    const { design } = made('branch-line');
    const closed = removePiece(design, 'through12');
    expect(openNodes(closed)).toEqual([]);
    const open = removePiece(design, 'through12', true);
    expect(openNodes(open).sort()).toEqual(['a2', 'b1']);
    const apart = separatePin(design, 'through12', 1);
    expect(openNodes(apart)).toHaveLength(2);
    const node = apart.pieces.find((x) => x.id === 'through12')!.nodes[1];
    expect(renameNode(apart, node, 'b1').pieces).toEqual(design.pieces);
    expect(openNodes(removePiece(made('wilkinson').design, 'isolation'))).toEqual(['r2', 'r3']);
  });

  it('shares texts: plain quantities worked out, expressions kept', () => {
    expect(shareOf('90 deg', 0.5)).toBe('45 deg');
    expect(shareOf('1.2mm', 0.25)).toBe('0.3 mm');
    expect(shareOf('quarter', 0.5)).toBe('0.5*quarter');
    expect(shareOf('lambda/4 - 0.1 mm', 0.5)).toBe('0.5*(lambda/4 - 0.1 mm)');
  });
});

describe('branches', () => {
  it('mirrored, they turn the other way and do the same', () => {
    const { project: p, design } = made('wilkinson', { ratio: '2' });
    const mirrored = mirrorPieces(
      design,
      design.pieces.map((x) => x.id),
    );
    const [a, b] = [layout(design), layout(mirrored)];
    for (const piece of a.pieces) {
      const other = b.pieces.find((x) => x.id === piece.id)!;
      piece.pins.forEach((pin, i) => {
        expect(other.pins[i].x).toBeCloseTo(pin.x, 12);
        expect(other.pins[i].y).toBeCloseTo(-pin.y, 12);
      });
    }
    const freq = [8e9, 10e9];
    const [x, y] = [response(p, 'modelled', freq), response(withDesign(p, mirrored), 'modelled', freq)];
    y.re.forEach((v, i) => expect(v).toBeCloseTo(x.re[i], 12));
  });

  it('are what lies beyond a pin; a ring ends where it comes back', () => {
    const { design } = made('tee-divider');
    expect(beyond(design, 'tee', 1).sort()).toEqual(['feed2', 'port2', 'section2', 'step2']);
    const ring = made('branch-line').design;
    expect(clipBranch(ring, 'through12').pieces.map((x) => x.id)).toEqual(['through12']);
    expect(clipBranch(ring, 'feed2').pieces.map((x) => x.id)).toEqual(['feed2', 'port2']);
  });

  it('are pasted with the values they use, under new names where those mean something else', () => {
    const source = replacePiece(made('tee-divider').design, 'section2', (p) => ({
      ...p,
      held: { ...p.held, turn: '-asinc(min(0.95, feed/length/9))' },
    }));
    const clip = clipBranch(source, 'section2');
    const target = { ...blank(), values: [...blank().values, { name: 'feed', value: '3 mm' }] };
    const start = grow(target, undefined, 'port');
    const { design, pieces } = paste(start.design, clip, start.node, true);
    expect(pieces).toHaveLength(clip.pieces.length);
    expect(design.values.map((v) => v.name).sort()).toEqual(['f0', 'feed', 'feed_2', 'ratio', 'z0', 'z2']);
    // Mirrored, and with the new name.
    expect(design.pieces.find((x) => x.role === 'section')!.held.turn).toBe(
      'asinc(min(0.95, feed_2/length/9))',
    );
    expect(design.pieces.filter((x) => x.kind === 'port').map((x) => x.settings?.number)).toEqual(['1', '2']);
    expect(resolveDesign(project(design), design).problems).toEqual([]);
    expect(new Set(design.pieces.map((x) => x.id)).size).toBe(design.pieces.length);
  });
});

describe('closing a ring', () => {
  it('says how far it is open and finds the least change of lengths that closes it', () => {
    const { project: p, design } = made('branch-line');
    const wrong = replacePiece(design, 'through43', (x) => ({ ...x, held: { ...x.held, trim: '0.3 mm' } }));
    const [open] = layout(wrong).closures;
    expect(Math.hypot(open.dx, open.dy)).toBeCloseTo(0.3e-3, 9);
    const closing = closeRings(withDesign(p, wrong), wrong)!;
    expect(layout(closing.design).closures).toEqual([]);
    // Half of it from each of the two lines along that direction.
    const moves = closing.moved.map((m) => m.to - m.from).filter((m) => Math.abs(m) > 1e-6);
    expect(moves).toHaveLength(2);
    for (const m of moves) expect(Math.abs(m)).toBeCloseTo(0.15e-3, 6);
  });

  it('finds nothing where no length can', () => {
    const { project: p, design } = made('branch-line');
    const crooked = replacePiece(design, 'through43', (x) => ({
      ...x,
      held: { ...x.held, turn: '170 deg' },
    }));
    expect(layout(crooked).closures.length).toBeGreaterThan(0);
    expect(closeRings(withDesign(p, crooked), crooked)).toBeUndefined();
  });
});

describe('the path on the Smith chart', () => {
  const arcOf = (recipe: string, inputs: Record<string, string>, id: string) => {
    const { project: p, design } = made(recipe, inputs);
    const resolved = resolveDesign(p, design);
    return pathArc(design, resolved, circuitOf(resolved, 'ideal')!, () => undefined, id);
  };
  it('goes from the load along circles to the source, piece by piece', () => {
    const inputs = { load: '23-41j ohm', sections: '2' };
    const turn = arcOf('quarter-wave', inputs, 'turn')!.points;
    // It begins at the load, keeps its size around the centre of its own impedance, and ends on the real axis.
    // (23 - j41 - 50) / (23 - j41 + 50)
    const gamma = { re: -290 / 7010, im: -4100 / 7010 };
    expect(size({ re: turn[0].re - gamma.re, im: turn[0].im - gamma.im })).toBeLessThan(1e-9);
    for (const point of turn) expect(size(point)).toBeCloseTo(size(turn[0]), 9);
    expect(turn[turn.length - 1].im).toBeCloseTo(0, 9);
    const [second, first] = ['section2', 'section1'].map((id) => arcOf('quarter-wave', inputs, id)!.points);
    expect(
      size({ re: second[0].re - turn[turn.length - 1].re, im: second[0].im - turn[turn.length - 1].im }),
    ).toBeLessThan(1e-9);
    expect(size(first[first.length - 1])).toBeLessThan(1e-9);
  });
  it('has no arc in a ring, and ends other ports in their references', () => {
    expect(arcOf('branch-line', {}, 'through12')).toBeUndefined();
    expect(arcOf('tee-divider', {}, 'section2')!.points[0].re).toBeCloseTo(0, 9);
    expect(arcOf('branch-line', {}, 'feed1')!.points.length).toBeGreaterThan(9);
    expect(arcOf('branch-line', {}, 'tee1')).toBeUndefined();
  });
});

describe('coaxial launches', () => {
  const { project, design } = made('branch-line');
  const launched = launchAll(design, 'launch-2.92');
  const ports = (level: 'ideal' | 'modelled', d = launched) =>
    response(withDesign(project, d), level, [10.55e9]);

  it('stand at all ports, leave the intention alone, cost what a connector costs, and come off again', () => {
    expect(launched.pieces.filter((p) => p.kind === 'launch')).toHaveLength(4);
    expect(() => launchAll(launched, 'launch-sma')).toThrow(/has a launch already/);
    const [was, is] = [ports('ideal', design), ports('ideal')];
    is.re.forEach((x, i) => expect(x).toBeCloseTo(was.re[i], 12));
    const passage = [design, launched].map((d) => passageOf(project, d)!);
    expect(Math.abs(passage[1].match - passage[0].match)).toBeGreaterThan(0.01);
    expect(passage[1].through!).toBeLessThan(passage[0].through! - 0.002);
    expect(review(project, launched, resolveDesign(project, launched))).toEqual([]);
    expect(withoutLaunches(launched)).toEqual(design);
  });

  it('reflect what pin and strip together make of the line, and nothing without a pin', () => {
    const line = (held: Record<string, string>) => {
      // 50.0 ohm of air line on a board line of 50 ohm.
      const coax = { inner: '1.52 mm', outer: '3.5 mm', er: '1', ...held };
      const pieces = [
        pieceOf('port1', 'port', { z: '50 ohm' }, ['a'], { number: '1' }),
        pieceOf('launch', 'launch', coax, ['a', 'b']),
        pieceOf('line', 'line', { z0: '50 ohm', theta: '200 deg' }, ['b', 'c']),
        pieceOf('port2', 'port', { z: '50 ohm' }, ['c'], { number: '2' }),
      ];
      return size(entry(ports('modelled', { ...design, pieces }), 1, 1));
    };
    const [none, some, more] = ['0 mm', '0.5 mm', '1.5 mm'].map((pin) => line({ pin }));
    expect(none).toBeLessThan(3e-3);
    expect(some).toBeGreaterThan(2 * none);
    expect(more).toBeGreaterThan(some);
    // A thinner pin stores less.
    expect(line({ pin: '1.5 mm', diameter: '0.2 mm' })).toBeLessThan(more);
  });
});
