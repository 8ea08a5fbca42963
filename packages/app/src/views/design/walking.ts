import { tunables, tuned, type Tunable } from '@ditch/core/studies';
import { alone } from '@ditch/core/network';
import { run } from '../../bridge/bridge';
import { Conveyor } from '../../bridge/conveyor';
import type { JobRequest } from '../../bridge/jobs';
import type { ArcActions } from '../../charts/SmithPath';
import { behindHand, edit, endMerge, say, useSession } from '../../store/session';
import type { Scene } from './stage';

interface Wish {
  readonly way: JobRequest<'towards'>;
  /** What the arc's value was when it was wished for. */
  readonly tunable: Tunable;
  readonly inverse: boolean;
}

/** Moves the value that an arc grows with to `share` of itself. */
function put(design: string, name: string, tunable: Tunable, share: number, inverse: boolean): void {
  if (tunable.expression !== undefined)
    say(
      `${tunable.label} was held by ${tunable.expression}; it is a number now and follows no longer. Undo brings it back.`,
    );
  const value = inverse ? tunable.value / share : tunable.value * share;
  behindHand(() =>
    edit(`tune ${name}`, (p) => tuned(p, design, tunable, value), `${design}:tune:${tunable.key}`),
  );
}

/** What is done with the arcs of a design's page. @param now what the page shows */
export function arcActions(now: () => Scene): ArcActions {
  const held = (piece: string) => {
    const { project, design, resolved, walked } = now();
    const arc = walked.arcs.find((a) => a.piece === piece);
    // The page draws a moment after the session: an arc of what is gone is not moved.
    const own = useSession.getState().project?.designs.find((d) => d.id === design.id);
    if (arc?.key === undefined || own !== design) return undefined;
    const [tunable] = tunables(project, design, resolved, [arc.key]);
    return tunable && { arc, tunable };
  };
  let ending = false;
  const settle = () =>
    // The conveyor goes on with what waits, if anything does, once it has told of this.
    queueMicrotask(() => {
      if (!ending || conveyor.isBusy) return;
      ending = false;
      endMerge();
    });
  const conveyor = new Conveyor<Wish, number | undefined>(
    ({ way }, signal) => run('towards', way, { signal }),
    {
      onResult: (share, { way: { design, piece }, tunable, inverse }) => {
        const name = design.pieces.find((p) => p.id === piece)?.name ?? piece;
        if (share !== undefined) put(design.id, name, tunable, share, inverse);
        settle();
      },
      onError(error) {
        say(`The arc could not be moved: ${error.message}.`);
        settle();
      },
    },
  );
  return {
    onTo(piece, point) {
      const found = held(piece);
      const { project, design, resolved, subjects, counted } = now();
      const model = counted && subjects.get(counted)?.model;
      if (!found || !model) return;
      const shown = design.plots?.find((p) => p.show === 'smith');
      const plane = resolved.planes.find((p) => p.plot === shown?.id);
      const own = alone(project, { ...design, attempts: [] });
      conveyor.want({
        way: { project: own, design, model, plane, piece, point },
        tunable: found.tunable,
        inverse: found.arc.inverse ?? false,
      });
    },
    onStep(piece, share) {
      const found = held(piece);
      if (found) put(now().design.id, found.arc.name, found.tunable, 1 + share, found.arc.inverse ?? false);
    },
    // The last move of a hand that has let go may still be on its way; it belongs to the same step.
    onEnd() {
      if (conveyor.isBusy) ending = true;
      else endMerge();
    },
  };
}
