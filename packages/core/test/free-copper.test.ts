import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { distanceBetween, layOut } from '../src/artwork';
import { cornersOf, grow, outlineText, removeCorner, setOutline, splitSide } from '../src/grow';
import { solvedSubject } from '../src/levels';
import { emptyDesign, emptyProject, renameIn, resolveDesign, type Design } from '../src/network';
import { outlinesOf, type Point } from '../src/polygons';
import { laminates } from '../src/stack';
import { pieceOf, withDesign } from './helpers';

const port = (number: string, node: string) =>
  pieceOf(`p${number}`, 'port', { z: '50 ohm' }, [node], { number });
const project = emptyProject('test', laminates[0]);
const empty = (): Design => emptyDesign('test', project.stacks[0].id, 'microstrip', '10 GHz');
const resolved = (design: Design) => resolveDesign(withDesign(project, design), design);

/** Free copper between two ports, by its corners. */
function between(corners: string, sides: readonly number[], values: Design['values'] = []): Design {
  const grown = grow({ ...empty(), pieces: [port('1', 'a')] }, 'a', 'free-copper');
  const shaped = setOutline(grown.design, grown.piece, corners, sides);
  const { nodes } = shaped.pieces[1];
  return {
    ...shaped,
    values: [...shaped.values, ...values],
    pieces: [...shaped.pieces, ...nodes.slice(1).map((n, i) => port(String(i + 2), n))],
  };
}
/** Corners of the union of a design's copper in whole tenths of a micrometre, from the least on, whichever way round. */
function copperOf(design: Design): Point[][] {
  const r = resolved(design);
  expect(r.problems).toEqual([]);
  const { copper } = solvedSubject(r, layOut(r))!;
  return outlinesOf(copper.polygons).map((ring) =>
    ring
      .map(([x, y]): Point => [Math.round(x * 1e7), Math.round(y * 1e7)])
      .sort((a, b) => a[0] - b[0] || a[1] - b[1]),
  );
}

describe('free copper', () => {
  it('is to the field solution what parts of the same outline are', () => {
    const parts: Design = {
      ...empty(),
      pieces: [
        port('1', 'a'),
        pieceOf('in', 'line', { width: '1.2 mm', length: '4.6 mm' }, ['a', 'b']),
        pieceOf('corner', 'bend', {}, ['b', 'c'], { shape: 'square', side: 'left' }),
        pieceOf('out', 'line', { width: '1.2 mm', length: '3.6 mm' }, ['c', 'd']),
        port('2', 'd'),
      ],
    };
    const text = ['0 mm, -w/2', '5.2 mm, -w/2', '5.2 mm, 3.6 mm', '4 mm, 3.6 mm', '4 mm, w/2', '0 mm, w/2'];
    const w = [{ name: 'w', value: '1.2 mm' }];
    const free = between(text.join('\n'), [6, 3], w);
    expect(copperOf(free)).toEqual(copperOf(parts));
    // Given in the other direction, and with its pins named the other way round, it is the same copper.
    const turned = between([...text].reverse().join('\n'), [6, 3], w);
    expect(copperOf(turned)).toEqual(copperOf(parts));
    const ports = (design: Design) => solvedSubject(resolved(design), layOut(resolved(design)))!.copper.ports;
    expect(ports(free).map(({ edge: [[ax, ay], [bx, by]] }) => Math.hypot(bx - ax, by - ay))).toEqual([
      expect.closeTo(1.2e-3, 9),
      expect.closeTo(1.2e-3, 9),
    ]);
    // Its corners are expressions like any other.
    const renamed = renameIn(free, 'w', 'wide');
    expect(outlineText(renamed.pieces[1])).toContain('0 mm, -wide/2');
    expect(
      resolved({ ...free, values: free.values.map((v) => (v.name === 'w' ? { ...v, value: '2 mm' } : v)) })
        .pieces[1].values!.y5.re,
    ).toBeCloseTo(1e-3, 12);
  });

  it('says which corner is wrong, and why', () => {
    const wrong = (corners: string, sides = [4, 2]) =>
      resolved(between(corners, sides)).problems.map(({ place, message }) => [
        place.kind === 'piece' ? place.face : '',
        message,
      ]);
    const square = '0 mm, 0 mm\n2 mm, 0 mm\n2 mm, 2 mm\n0 mm, 2 mm';
    expect(wrong(square)).toEqual([]);
    expect(wrong(square.replace('2 mm, 2 mm', '2 mm, 0 mm'))).toEqual([
      ['x3', 'is where the corner before it is'],
    ]);
    // A bow tie, and an outline that touches itself in one point.
    expect(wrong('0 mm, 0 mm\n2 mm, 2 mm\n2 mm, 0 mm\n0 mm, 2 mm')[0]).toEqual([
      'x3',
      expect.stringContaining('meets the one from corner 1 to 2'),
    ]);
    expect(wrong(square.replace('0 mm, 2 mm', '1 mm, 0 mm\n0 mm, 2 mm'))[0][1]).toContain('meets the one');
    expect(wrong(square.replace('2 mm, 2 mm', '2 mm, 3 GHz'))[0][0]).toBe('y3');
    expect(wrong(square.replace('2 mm, 2 mm', 'q, 2 mm'))[0][0]).toBe('x3');
    const refused = (corners: string, sides: readonly number[]) => () => between(corners, sides);
    expect(refused('0 mm, 0 mm\n1 mm', [1])).toThrow('line 2: a corner is written as x, y');
    expect(refused('0 mm, 0 mm\n1 mm, 0 mm', [1])).toThrow('three at least');
    expect(refused(square, [5])).toThrow('there is no side 5; sides are counted from 1 to 4');
    expect(refused(square, [2, 2])).toThrow('side 2 is named twice');
    expect(refused(square, [])).toThrow('needs a pin');
    // A comma between brackets is one of an expression.
    expect(cornersOf(between('min(0 mm, 1 mm), 0 mm\n2 mm, 0 mm\n2 mm, 2 mm', [1]).pieces[1])[0][0]).toEqual({
      x: 'min(0 mm, 1 mm)',
      y: '0 mm',
    });
  });

  it('keeps its pins while corners come and go', () => {
    const sides = (d: Design) => d.pieces[1].settings!.sides;
    const square = between('0 mm, 0 mm\n2 mm, 0 mm\n2 mm, 2 mm\n0 mm, 2 mm', [4, 2]);
    const id = square.pieces[1].id;
    const split = splitSide(square, id, 1);
    expect(outlineText(split.pieces[1]).split('\n')[1]).toBe('1 mm, 0 mm');
    expect(sides(split)).toBe('5 3');
    expect(split.pieces[1].nodes).toEqual(square.pieces[1].nodes);
    const back = removeCorner(split, id, 2);
    expect(outlineText(back.pieces[1])).toBe(outlineText(square.pieces[1]));
    expect(sides(back)).toBe('4 2');
    // Its first corner too, whose sides are the last and the first.
    expect(sides(removeCorner(split, id, 1))).toBe('4 2');
    const triangle = removeCorner(square, id, 4);
    expect(sides(triangle)).toBe('3 2');
    expect(() => removeCorner(triangle, id, 1)).toThrow('keeps three corners');
    expect(() => removeCorner(between(outlineText(split.pieces[1]), [1, 2]), id, 2)).not.toThrow();
    // Fewer pins keep what they are joined to by their sides, otherwise by their order.
    const [a, b] = square.pieces[1].nodes;
    const text = outlineText(square.pieces[1]);
    expect(setOutline(square, id, text, [2]).pieces[1].nodes).toEqual([b]);
    expect(setOutline(square, id, text, [1, 3]).pieces[1].nodes).toEqual([a, b]);
    expect(setOutline(square, id, text, [4, 2, 1]).pieces[1].nodes.slice(0, 2)).toEqual([a, b]);
  });

  it('knows how far outlines that are not convex are from one another', () => {
    const u = [
      [0, 0],
      [6, 0],
      [6, 5],
      [4, 5],
      [4, 2],
      [2, 2],
      [2, 5],
      [0, 5],
    ].map(([x, y]) => ({ x, y }));
    fc.assert(
      fc.property(
        fc.double({ min: 0.1, max: 1.9, noNaN: true }),
        fc.double({ min: 0.1, max: 4, noNaN: true }),
        fc.double({ min: 0, max: 6.28, noNaN: true }),
        (w, up, angle) => {
          const turn = ({ x, y }: { x: number; y: number }) => ({
            x: x * Math.cos(angle) - y * Math.sin(angle),
            y: x * Math.sin(angle) + y * Math.cos(angle),
          });
          // A bar that hangs between the arms of a U, `up` over its floor.
          const bar = [
            [3 - w / 2, 2 + up],
            [3 + w / 2, 2 + up],
            [3 + w / 2, 9],
            [3 - w / 2, 9],
          ].map(([x, y]) => ({ x, y }));
          const expected = Math.min(up, up < 3 ? 1 - w / 2 : Math.hypot(1 - w / 2, up - 3));
          expect(distanceBetween(u.map(turn), bar.map(turn))).toBeCloseTo(expected, 9);
        },
      ),
    );
    expect(
      distanceBetween(u, [
        { x: 3, y: 1 },
        { x: 5, y: 1 },
        { x: 5, y: 4 },
      ]),
    ).toBe(0);
    const inside = [
      { x: 0.5, y: 0.5 },
      { x: 1, y: 0.5 },
      { x: 1, y: 1 },
    ];
    expect(distanceBetween(u, inside)).toBe(0);
    expect(distanceBetween(inside, u)).toBe(0);
  });
});
