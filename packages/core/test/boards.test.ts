import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { layOut } from '../src/artwork';
import { resolveDesign } from '../src/network';
import { RecipeError, recipes, type RecipeInputs } from '../src/recipes';
import { review } from '../src/review';
import { laminates, type Stack } from '../src/stack';
import { entry, made, response, size } from './helpers';

const C = 299792458;
const spread = (low: number, high: number) =>
  fc
    .double({ min: Math.log(low), max: Math.log(high), noNaN: true })
    .map((x) => Number(Math.exp(x).toPrecision(6)));

/** Boards from teflon foil to ceramic, thin against the wave; some under a lid. */
const board = fc
  .record({
    er: spread(1.01, 13),
    height: spread(0.05e-3, 3e-3),
    lid: fc.option(spread(1, 10)),
    slim: fc.boolean(),
    medium: fc.constantFrom('microstrip' as const, 'stripline' as const),
    share: spread(1e-4, 0.05),
  })
  .map(({ er, height, lid, slim, medium, share }) => ({
    medium,
    freq: Math.min(60e9, (share * C) / (height * Math.sqrt(er))),
    stack: {
      ...laminates[0],
      er: String(er),
      height: `${height} m`,
      thickness: slim ? '0 um' : `${Math.min(35e-6, height / 10)} m`,
      cover: lid === null ? '' : `${lid * height} m`,
    } satisfies Stack,
  }));

const chosen = fc.constantFrom(...recipes.values()).chain((recipe) =>
  fc
    .record({
      re: spread(3, 500),
      im: fc.oneof(
        fc.constant(0),
        spread(1, 300),
        spread(1, 300).map((x) => -x),
      ),
      ratio: spread(0.25, 4),
      picks: fc.record(
        Object.fromEntries(
          recipe.fields.flatMap((f) =>
            'options' in f ? [[f.name, fc.constantFrom(...f.options.map((o) => o.id))]] : [],
          ),
        ),
      ),
    })
    .map(({ re, im, ratio, picks }): [string, RecipeInputs] => [
      recipe.id,
      {
        ...(picks as RecipeInputs),
        values: 'exact',
        load: `${re}${im < 0 ? '-' : '+'}${Math.abs(im)}j ohm`,
        ratio: String(ratio),
      },
    ]),
);

describe('recipes on any board', () => {
  it('make exact, passive designs, or say at which entry they cannot', () => {
    let designs = 0;
    fc.assert(
      fc.property(board, chosen, ({ stack, medium, freq }, [id, inputs]) => {
        let project;
        try {
          ({ project } = made(id, { ...inputs, freq: `${freq} Hz` }, stack, medium));
        } catch (error) {
          if (error instanceof RecipeError) return;
          throw error;
        }
        // A line that no width of this board has is said at its piece.
        const { problems } = resolveDesign(project, project.designs[0]);
        if (problems.length > 0) {
          expect(problems[0].message).toMatch(
            /no width has|has no angle|no pair of strips|no width of strips|by a gap between|no gap couples/,
          );
          return;
        }
        designs++;
        for (const level of ['ideal', 'modelled'] as const) {
          const s = response(project, level, [0.5 * freq, freq, 1.4 * freq]);
          for (let k = 0; k < 3; k++)
            for (let j = 1; j <= s.ports; j++) {
              let power = 0;
              for (let i = 1; i <= s.ports; i++) power += size(entry(s, i, j, k)) ** 2;
              expect(power).toBeLessThan(1 + 1e-6);
            }
          // A taper matches above its lowest frequency only, a reflectometer shows what it looks at, a DC block what is
          // allowed, and a low-pass or a band stop is not there to pass its own frequency.
          if (
            level === 'ideal' &&
            !['taper', 'reflectometer', 'dc-block'].includes(id) &&
            !/^(lowpass|bandstop)/.test(id)
          )
            // The dips of what is not its own mirror image about the centre lie beside the middle of its edges.
            expect(size(entry(s, 1, 1, 1))).toBeLessThan(
              /^bandpass-(hairpin|loop|gap|combline)$/.test(id) ? 0.08 : 1e-7,
            );
        }
      }),
      { numRuns: 250 },
    );
    expect(designs).toBeGreaterThan(80);
    // Some boards drawn at random take several times as long as others.
  }, 240_000);

  it.each([...recipes.keys()])('%s on the board of every day: nothing to question', (id) => {
    const stack = { ...laminates[0], er: '4.4', tand: '0.02', height: '1.6 mm', thickness: '35 um' };
    const inputs = {
      freq: '1.2 GHz',
      load: '23-41j ohm',
      ...(id === 'quarter-wave' && { profile: 'chebyshev' }),
    };
    const { project, design } = made(id, inputs, stack);
    const resolved = resolveDesign(project, design);
    const messages = review(project, design, resolved, layOut(resolved)).map((r) => r.message);
    // Fingers are that much narrower than feeds on so thick a board, stepped lines than one another, and it is said.
    const steps = id === 'balun' || id === 'lowpass-stepped';
    expect(messages.filter((m) => !steps || !/a step of/.test(m))).toEqual([]);
  });
});
