import 'fake-indexeddb/auto';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { readProject } from '@ditch/core/formats';
import { resolveDesign, type Design } from '@ditch/core/network';
import { keyOf, type SolvedSubject } from '@ditch/core/levels';
import type { KeptSolution } from '@ditch/core/planar';
import demo from '../../../examples/ditchwater.ditch.json';
import type { Reading } from '../src/bridge/jobs';
import type { SolveState } from '../src/bridge/solve';
import type { Solving as SolvingClass } from '../src/views/design/solving';

/** Seconds that every solution is said to take. */
let seconds = 10;
interface Call {
  readonly known: KeptSolution | undefined;
  readonly signal: AbortSignal;
  readonly tell: (count: number) => void;
  readonly finish: (count: number) => void;
  readonly fail: (message: string) => void;
}
const calls: Call[] = [];
const survey: { answer: (design: Design) => Promise<Reading<SolvedSubject | undefined>> } = {
  answer: () => Promise.resolve({ value: undefined }),
};
vi.mock('../src/bridge/bridge', () => ({
  run: (_name: string, { design }: { design: Design }) => survey.answer(design),
  runApart: (_name: string, { asked }: { asked: readonly string[] }) =>
    Promise.resolve(
      Object.fromEntries(asked.map((a) => [a, { unknowns: 100, bytes: a === 'draft' ? 1e7 : 9e9, seconds }])),
    ),
  WorkerLost: class extends Error {},
}));
vi.mock('../src/bridge/solving', () => ({
  WORKERS: 1,
  solveApart: (
    _request: unknown,
    known: KeptSolution | undefined,
    _bytes: number,
    onTold: (done: number, state: SolveState) => void,
    signal: AbortSignal,
  ) =>
    new Promise<SolveState>((resolve, reject) => {
      signal.addEventListener('abort', () => reject(new DOMException('cancelled', 'AbortError')));
      const state = (count: number): SolveState => ({
        samples: Array.from({ length: count }, (_, i) => ({
          x: 6e9 + i * 1e9,
          re: new Float64Array(4),
          im: new Float64Array(4),
        })),
        error: 1 / count,
        unknowns: 100,
        ports: [],
        resonances: [],
        warnings: [],
      });
      calls.push({
        known,
        signal,
        tell: (count) => onTold(0.5, state(count)),
        finish: (count) => resolve(state(count)),
        fail: (message) => reject(new Error(message)),
      });
    }),
}));

const project = readProject(JSON.stringify(demo));
const design = project.designs[0];
const settled = () => new Promise((r) => setTimeout(r, 260));

describe('the solved level of a page', () => {
  let solving: SolvingClass;
  let prefer: (change: object) => void;
  const see = async (zl: string, sweep = design.sweep) => {
    const values = design.values.map((v) => (v.name === 'zl' ? { ...v, value: zl } : v));
    const next = { ...design, values, sweep };
    solving.follow(project, next, resolveDesign(project, next));
    await settled();
  };
  beforeEach(async () => {
    calls.length = 0;
    seconds = 10;
    const [module, hooks, kept, real] = await Promise.all([
      import('../src/views/design/solving'),
      import('../src/views/hooks'),
      import('../src/responses/solutions'),
      import('../src/bridge/solve'),
    ]);
    kept.forgetSolutions();
    const { db } = await import('../src/store/db');
    await db.solutions.clear();
    survey.answer = (d) => real.survey({ project: { ...project, designs: [d] }, design: d });
    prefer = (change) => hooks.usePreferences.setState(change);
    prefer({ follow: false, accuracy: 'normal' });
    solving = new module.Solving(() => undefined);
  });

  it('says what it takes, shows every better curve, and marks what is of before in words', async () => {
    await see('120 ohm');
    expect(solving.get().estimates).toEqual({ normal: { unknowns: 100, bytes: 9e9, seconds: 10 } });
    solving.weigh();
    await settled();
    expect(Object.keys(solving.get().estimates!)).toEqual(['normal', 'draft', 'fine']);
    expect(calls).toHaveLength(0);
    solving.start();
    await settled();
    calls[0].tell(5);
    expect(solving.get().under).toMatchObject({ samples: 5, error: 0.2 });
    expect(solving.get().shown).toMatchObject({ fresh: true, solution: { complete: false } });
    const first = solving.get().shown!.subject.solved!.key;
    calls[0].finish(9);
    await settled();
    expect(solving.get().under).toBeUndefined();
    expect(solving.get().shown?.solution).toMatchObject({ complete: true, accuracy: 'normal' });
    expect(solving.get().shown!.subject.solved!.key).not.toBe(first);

    await see('110 ohm');
    expect(solving.get().shown).toMatchObject({ fresh: false, changes: ['zl: 120 ohm \u2192 110 ohm'] });
    // Back, and over a narrower sweep: nothing is solved again; over a wider one it has to be.
    await see('120 ohm');
    expect(solving.get().shown?.fresh).toBe(true);
    await see('120 ohm', { ...design.sweep, stop: '1.2*f0' });
    expect(solving.get().shown?.fresh).toBe(true);
    await see('120 ohm', { ...design.sweep, stop: '1.8*f0' });
    expect(solving.get().shown?.fresh).toBe(false);
    expect(calls).toHaveLength(1);
  });

  it('keeps what was solved when it is stopped, and goes on from there', async () => {
    await see('120 ohm');
    solving.start();
    await settled();
    calls[0].tell(6);
    solving.stop();
    await settled();
    expect(calls[0].signal.aborted).toBe(true);
    expect(solving.get()).toMatchObject({ under: undefined, shown: { solution: { complete: false } } });
    solving.start();
    await settled();
    expect(calls[1].known?.samples).toHaveLength(6);
    calls[1].fail('there is not so much memory');
    await settled();
    solving.weigh();
    await settled();
    expect(solving.get().failure).toMatch(/normal accuracy needs 9000 MB/);
    // What is refused says why, and what was solved stays to be seen.
    survey.answer = () => Promise.resolve({ problem: 'the stub is glass' });
    await see('100 ohm');
    expect(solving.get()).toMatchObject({ refusal: 'the stub is glass', shown: { fresh: false } });
  });

  it('follows by itself where it is told to and that is quick, and not where it is not', async () => {
    prefer({ follow: true });
    await see('120 ohm');
    expect(calls).toHaveLength(0);
    seconds = 0.4;
    await see('115 ohm');
    expect(calls).toHaveLength(1);
    // While it runs the hand goes on: the newest state is solved next, those between are not.
    await see('112 ohm');
    await see('110 ohm');
    expect(calls).toHaveLength(1);
    calls[0].finish(9);
    await settled();
    expect(calls).toHaveLength(2);
    calls[1].finish(9);
    await settled();
    expect(solving.get().shown?.fresh).toBe(true);
    solving.close();
    expect(calls).toHaveLength(2);
  });

  it('is asked under a name of the copper that was solved, and of none that is solved in part', async () => {
    const { wholeSubjectOf } = await import('../src/responses/solutions');
    const { sweep } = resolveDesign(project, design);
    const asked = async (trim: string) => {
      const pieces = design.pieces.map((p) => (p.kind === 'line' ? { ...p, held: { ...p.held, trim } } : p));
      const state = { ...design, pieces };
      solving.follow(project, state, resolveDesign(project, state));
      await settled();
      const whole = async () => {
        const found = await wholeSubjectOf(project, state, sweep!);
        return 'value' in found && found.value ? keyOf('solved', found.value) : undefined;
      };
      solving.start();
      await settled();
      calls[calls.length - 1].tell(5);
      expect(await whole()).toBeUndefined();
      calls[calls.length - 1].finish(9);
      await settled();
      const key = await whole();
      expect(key).toBe(keyOf('solved', solving.get().shown!.subject));
      return key;
    };
    // What is joined to the copper is the same, and so is the number of samples.
    expect(await asked('20 um')).not.toBe(await asked('40 um'));
  });
});
