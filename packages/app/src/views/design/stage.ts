import { signal } from '@preact/signals-core';
import { layOut, type Layout } from '@ditch/core/artwork';
import { liveLevels, truest, type LevelId, type LiveId, type Subject } from '@ditch/core/levels';
import {
  alone,
  resolveDesign,
  seenFrom,
  type Design,
  type Project,
  type ResolvedDesign,
} from '@ditch/core/network';
import { MOST_WALKED, type Walked } from '@ditch/core/studies';
import { run } from '../../bridge/bridge';
import { Conveyor } from '../../bridge/conveyor';
import type { JobRequest } from '../../bridge/jobs';
import { ResponseStore, type Snapshot, type Task, type Wanted } from '../../responses';
import type { Live } from '../../live';
import { isBehindHand, useSession } from '../../store/session';
import { influenceOf, subjectOf } from './reading';
import { readAt } from './points';
import { Solving, type Solved } from './solving';

/** A design worked out, with what its levels are asked. */
interface State {
  readonly project: Project;
  readonly design: Design;
  readonly resolved: ResolvedDesign;
  readonly layout: Layout;
  readonly subjects: ReadonlyMap<LiveId, Subject | undefined>;
  /** The truest level that follows by itself. */
  readonly counted: LiveId | undefined;
}

/** What the page shows of a design. */
export interface Scene extends State {
  readonly responses: Snapshot;
  readonly walked: Walked;
  readonly solved: Solved;
}

/** What is looked at beside the design itself. */
export interface Aside {
  /** Id of the piece that is pointed at. */
  readonly hovered: string | undefined;
  /** Ids of the attempts drawn beside it. */
  readonly beside: readonly string[];
  /** The best state that a search has found so far. */
  readonly trial?: Pick<Design, 'values' | 'pieces'>;
}

/** Milliseconds that the edits of a moving hand wait for their curves, to be drawn with them at once. */
const TOGETHER = 50;
/** The same for a single step whose curves have come that soon of late: a tenth of a second is at once (Miller 1968). */
const AT_ONCE = 100;
const NO_WALK: Walked = { arcs: [] };
/** A longer sweep is not computed again for a glance. */
const GLANCED = 2001;

function workOut(project: Project, design: Design, before?: State): State {
  if (
    before?.design === design &&
    before.project.stacks === project.stacks &&
    before.project.data === project.data
  )
    return { ...before, project };
  const resolved = resolveDesign(project, design);
  const layout = layOut(resolved);
  const subjects = new Map(liveLevels.map((l) => [l.id, l.subject(resolved)]));
  const counted = truest([...subjects].flatMap(([id, s]) => (s ? [id] : [])));
  return { project, design, resolved, layout, subjects, counted };
}

/**
 * What stands between the session and the page of a design, outside React: it works every edit out, asks for its curves
 * and for the way on the Smith chart, and hands all of it on at once, so that a step costs one drawing. An edit made
 * behind the hand waits a moment for its curves; whatever the hand does next finds the page drawn.
 */
export class Stage {
  readonly responses: ResponseStore;
  /** The level that is asked for. */
  readonly solving = new Solving(() => this.solvedChanged());
  /** What there is to draw. */
  readonly scene: Live<Scene>;
  private readonly shown;
  private now: State;
  readonly aside = signal<Aside>({ hovered: undefined, beside: [] });
  private walked: { readonly key: string; readonly result: Walked } = { key: '', result: NO_WALK };
  private walkKey = '';
  private timer: ReturnType<typeof setTimeout> | undefined;
  /** When the first edit was made that is not drawn yet, and the last one whose curves are not there yet. */
  private first = 0;
  private asked: number | undefined;
  /** Milliseconds that curves took the last time. */
  private lag = Infinity;
  private following = false;
  /** An edit behind the hand that is not worked out yet. */
  private pending: { readonly project: Project; readonly task: ReturnType<typeof setTimeout> } | undefined;
  private readonly walker = new Conveyor<
    { readonly key: string; readonly way: JobRequest<'walked'> },
    Walked
  >(({ way }, signal) => run('walked', way, { signal }), {
    onResult: (result, { key }) => {
      this.walked = { key, result };
      this.arrived();
    },
    // Without its arcs the chart is a chart.
    onError: (_error, { key }) => {
      this.walked = { key, result: NO_WALK };
      this.arrived();
    },
  });

  constructor(private readonly id: string) {
    const project = useSession.getState().project!;
    this.now = workOut(
      project,
      project.designs.find((d) => d.id === id)!,
    );
    this.responses = new ResponseStore(this.wanted());
    this.shown = signal(this.asIs());
    this.scene = this.shown;
  }

  /** What stands on the page, for whatever is done with it. */
  readonly get = (): Scene => this.scene.peek();

  /** Follows the session until the returned function is called. */
  readonly open = (): (() => void) => {
    const unfollow = useSession.subscribe(({ project }) => {
      if (!project || project === (this.pending?.project ?? this.now.project)) return;
      if (isBehindHand()) this.followSoon(project);
      else {
        this.follow(project);
        this.publish();
      }
    });
    const unsubscribe = this.responses.subscribe(() => this.arrived());
    const { project } = useSession.getState();
    if (project && project !== this.now.project) {
      this.follow(project);
      this.publish();
    } else this.ask();
    return () => {
      unfollow();
      unsubscribe();
      this.walker.stop();
      this.solving.close();
      this.responses.close();
      clearTimeout(this.timer);
      clearTimeout(this.pending?.task);
      this.timer = this.pending = undefined;
    };
  };

  /** Looks at something else beside the design. */
  look(aside: Aside): void {
    this.aside.value = aside;
    this.ask();
  }

  /** Whether an edit has not been drawn yet. */
  get waits(): boolean {
    return this.timer !== undefined || this.pending !== undefined;
  }

  /** Draws what there is. */
  readonly publish = (): void => {
    this.catchUp();
    clearTimeout(this.timer);
    this.timer = undefined;
    this.shown.value = this.asIs();
  };

  /** All that there is by now. */
  private asIs(): Scene {
    return {
      ...this.now,
      responses: this.responses.get(),
      walked: this.walked.result,
      solved: this.solving.get(),
    };
  }

  /**
   * Takes an edit up that was made behind the hand: in a task of its own, for the one that it is made in draws the frame
   * before it. Edits of one frame are worked out once.
   */
  private followSoon(project: Project): void {
    const now = performance.now();
    this.asked = now;
    // From here on what arrives is drawn together with the edit.
    if (!this.waits) {
      this.first = now;
      this.publishIn(this.lag < AT_ONCE ? AT_ONCE : TOGETHER);
    }
    // Another edit before the first is drawn: the hand moves on, and the copper follows it.
    else this.publishIn(Math.max(0, this.first + TOGETHER - now));
    const task = this.pending?.task ?? setTimeout(this.catchUp, 0);
    this.pending = { project, task };
  }

  /** Works out what is pending. */
  private readonly catchUp = (): void => {
    if (!this.pending) return;
    this.follow(this.pending.project);
    // What was known already is drawn in a task of its own as well.
    if (this.isComplete()) this.publishIn(0);
  };

  private follow(project: Project): void {
    clearTimeout(this.pending?.task);
    this.pending = undefined;
    const design = project.designs.find((d) => d.id === this.id);
    // A design that is gone has no page any more.
    if (!design) return;
    this.now = workOut(project, design, this.now);
    this.following = true;
    try {
      this.ask();
    } finally {
      this.following = false;
    }
  }

  private publishIn(ms: number): void {
    clearTimeout(this.timer);
    this.timer = setTimeout(this.publish, ms);
  }

  /** A better solution, or word of one. */
  private solvedChanged(): void {
    this.responses.want(this.wanted());
    this.arrived();
  }

  private arrived(): void {
    // What is known at once is told before the edit is through, and what comes meanwhile is of an earlier one.
    if (this.following || this.pending) return;
    if (!this.isComplete()) this.timer ??= setTimeout(this.publish, TOGETHER);
    else {
      if (this.asked !== undefined) this.lag = performance.now() - this.asked;
      this.asked = undefined;
      this.publish();
    }
  }

  /** Whether what the hand waits for is there. */
  private isComplete(): boolean {
    const { current } = this.responses.get();
    const { subjects, resolved } = this.now;
    if (this.walkKey !== '' && this.walked.key !== this.walkKey) return false;
    return !resolved.sweep || [...subjects].every(([id, subject]) => !subject || current.has(id));
  }

  private ask(): void {
    const { project, design, resolved } = this.now;
    this.solving.follow(project, design, resolved);
    this.responses.want(this.wanted());
    this.askWay();
  }

  /** The way on the Smith chart, where one is shown. */
  private askWay(): void {
    const { project, design, resolved, subjects, counted } = this.now;
    const { hovered } = this.aside.peek();
    const shown = design.plots?.find((p) => p.show === 'smith');
    // Between more than two ports there is no one way; only what is pointed at has an arc of its own.
    const single = design.pieces.filter((p) => p.kind === 'port').length <= 2;
    const wanted =
      (shown !== undefined || !design.plots) &&
      design.pieces.length <= MOST_WALKED &&
      (single || hovered !== undefined);
    const subject = counted && subjects.get(counted);
    if (!wanted || !subject) {
      this.walkKey = '';
      this.walked = { key: '', result: NO_WALK };
      this.walker.stop();
      return;
    }
    const plane = resolved.planes.find((p) => p.plot === shown?.id);
    // Where there is one way, what is pointed at changes nothing of it.
    const pointed = this.walked.result.arcs.length === 0 ? hovered : undefined;
    const held = design.pieces.map((p) => [p.held, p.role]);
    const key = JSON.stringify([subject, held, design.values, plane, pointed]);
    if (key === this.walkKey) return;
    this.walkKey = key;
    const own = { ...design, attempts: [] };
    this.walker.want({
      key,
      way: { project: alone(project, own), design: own, model: subject.model, plane, pointed },
    });
  }

  private wanted(): Wanted | undefined {
    const { project, design, resolved, subjects, counted } = this.now;
    const { sweep, f0, goal } = resolved;
    if (!sweep || !counted) return undefined;
    const { hovered, beside, trial } = this.aside.peek();
    const task = (id: string, level: LevelId, subject: Subject | undefined, more?: Partial<Task>): Task[] =>
      subject ? [{ id, level, subject, ...more }] : [];
    const glance =
      hovered !== undefined && sweep.points <= GLANCED
        ? influenceOf(subjects.get(counted), resolved, hovered)
        : undefined;
    return {
      sweep,
      data: project.data,
      match: f0 === undefined ? undefined : { near: f0, target: -goal },
      at: readAt(resolved),
      tasks: [
        ...liveLevels.flatMap((l) => task(l.id, l.id, subjects.get(l.id), { first: true, read: true })),
        ...task('solved', 'solved', this.solving.get().shown?.subject, { read: true }),
        ...task('influence', counted, glance),
        ...(design.attempts ?? [])
          .filter((a) => beside.includes(a.id))
          .flatMap(({ id, values, pieces }) =>
            task(`attempt:${id}`, counted, subjectOf(project, { ...design, values, pieces }, counted)),
          ),
        ...(trial ? task('trial', counted, subjectOf(project, { ...design, ...trial }, counted)) : []),
        ...resolved.planes.flatMap((plane) =>
          liveLevels.flatMap((l) => {
            const whole = subjects.get(l.id);
            return task(`plane:${plane.plot}:${l.id}`, l.id, whole && seenFrom(whole, resolved, plane));
          }),
        ),
      ],
    };
  }
}
