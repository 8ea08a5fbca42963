import { memo, useEffect, useMemo, useState } from 'react';
import styled from 'styled-components';
import { alone, type Design, type Project } from '@ditch/core/network';
import { MOST_TUNED, tunables, tuned, type Profile, type Tunable } from '@ditch/core/studies';
import { sideHeld } from '@ditch/core/grow';
import { useLatest } from '../../bridge/latest';
import { Quiet, TextButton } from '../../controls/basics';
import type { Command } from '../../controls/command';
import { Menu } from '../../controls/Menu';
import { helpHandlers } from '../../controls/help';
import { useHandler } from '../../controls/stable';
import { behindHand, edit, editDesign, endMerge } from '../../store/session';
import { useDerived, useLive, type Live } from '../../live';
import { colour } from '../../theme';
import { keepState, setFree, setRange } from '../edits';
import { useResolved } from '../hooks';
import { AttemptList, type AttemptProps } from './Attempts';
import { Knob } from './Knob';
import type { Scene } from './stage';

const Band = styled.section<{ $high: boolean }>`
  display: flex;
  /* The room that the page keeps for it until it is loaded. */
  height: ${({ $high }) => ($high ? 74 : 60)}px;
  align-items: stretch;
  min-width: 0;
  border-top: 1px solid ${colour('rule')};
  background: ${colour('page')};
`;
const Knobs = styled.div`
  display: flex;
  flex: 1;
  min-width: 0;
  overflow-x: auto;
  > div {
    flex: 0 0 168px;
    padding: 5px 12px 6px;
    border-right: 1px solid ${colour('rule')};
  }
  .head {
    display: flex;
    align-items: baseline;
    justify-content: space-between;
    gap: 6px;
    font-size: 11px;
    color: ${colour('quiet')};
    white-space: nowrap;
  }
  .head span {
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .value {
    color: ${colour('ink')};
    font-size: 13px;
    font-weight: 600;
  }
  .still {
    overflow: hidden;
    color: ${colour('quiet')};
    font-size: 11px;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  svg {
    display: block;
    width: 100%;
    margin-top: 2px;
    touch-action: none;
    cursor: ew-resize;
    outline-offset: 1px;
  }
`;
const Aside = styled.div`
  display: flex;
  flex: none;
  flex-direction: column;
  justify-content: center;
  gap: 2px;
  padding: 4px 10px;
  font-size: 12px;
  max-width: 320px;
  > div {
    display: flex;
    align-items: center;
    gap: 4px;
  }
  button {
    height: 24px;
  }
`;
/** Points of a profile. */
const POINTS = 31;

interface StripProps {
  readonly scene: Live<Scene>;
  /** The state to come back to. */
  readonly start: Design;
  readonly onStart: (design: Design) => void;
  readonly beside: readonly string[];
  readonly onBeside: (ids: readonly string[]) => void;
  /** Brings the response into the limits of the plots; absent while it cannot. */
  readonly onMeet: (() => void) | undefined;
  /** Whether a search for the limits is under way. */
  readonly meeting: boolean;
  /** Names of whatever else stands on the design's board. */
  readonly shared: readonly string[];
}

/** Values under the hand: each with how the match follows it, the way back, and the attempts that were kept. */
export default memo(function TuningStrip(props: StripProps) {
  const { scene, start, onStart, beside, onBeside, onMeet, meeting, shared } = props;
  const { keys, limited, count } = useLive(
    useDerived(() => {
      const { strip = [], plots, attempts = [] } = scene.value.design;
      return {
        keys: strip,
        limited: plots?.some((p) => p.limits?.length) ?? false,
        count: attempts.length,
      };
    }, [scene]),
  );
  const atStart = useLive(
    useDerived(() => {
      const { values, pieces } = scene.value.design;
      return start.values === values && start.pieces === pieces;
    }, [scene, start]),
  );
  const { id } = scene.peek().design;
  /** Everything that could be put on it. */
  const all = () => {
    const { project, design, resolved } = scene.peek();
    return tunables(project, design, resolved);
  };
  const [open, setOpen] = useState(false);

  const commands = useHandler((): Command[] => {
    const known = all();
    const full = known.filter((t) => keys.includes(t.key)).length >= MOST_TUNED;
    return known
      .filter((t) => !keys.includes(t.key))
      .map((t) => ({
        id: t.key,
        group: t.key.startsWith('value:') ? 'Named values' : t.key.startsWith('piece:') ? 'Pieces' : 'Board',
        label: t.label,
        note: t.shown,
        disabled: full,
        run: () => setFree(id, t.key, true),
      }));
  });
  const startHere = useHandler(() => onStart(scene.peek().design));
  const back = useHandler(() => {
    endMerge();
    editDesign(id, 'back to the start', (d) => ({ ...d, values: start.values, pieces: start.pieces }));
  });
  const keep = useHandler(() => {
    const { attempts = [] } = scene.peek().design;
    let n = attempts.length + 1;
    while (attempts.some((a) => a.name === `attempt ${n}`)) n++;
    keepState(id, `attempt ${n}`, `keep attempt ${n}`);
  });
  return (
    <Band aria-label="Tuning strip" $high={keys.length > 0}>
      <Knobs>
        {keys.length > 0 ? <Hand scene={scene} keys={keys} start={start} shared={shared} /> : <NothingYet />}
      </Knobs>
      <Tools
        commands={commands}
        atStart={atStart}
        count={count}
        open={open}
        onBack={back}
        onStart={startHere}
        onKeep={keep}
        onOpen={setOpen}
        onMeet={limited ? onMeet : undefined}
        meeting={meeting}
      />
      {open && count > 0 && (
        <Attempts scene={scene} beside={beside} onBeside={onBeside} onClose={() => setOpen(false)} />
      )}
    </Band>
  );
});

const NothingYet = () => (
  <Quiet style={{ padding: '8px 12px', fontSize: 12 }}>
    Put values here to turn them by hand: their curves show how the match follows before they are touched.
  </Quiet>
);

function Attempts({
  scene,
  ...props
}: { readonly scene: Live<Scene> } & Pick<AttemptProps, 'beside' | 'onBeside' | 'onClose'>) {
  const { project, design } = useLive(scene);
  return <AttemptList project={project} design={design} {...props} />;
}

interface HandProps {
  readonly scene: Live<Scene>;
  readonly keys: readonly string[];
  readonly start: Design;
  readonly shared: readonly string[];
}

/** The values that are turned, following the design. */
function Hand({ scene, keys, start, shared }: HandProps) {
  const { project, design, resolved } = useLive(scene);
  const known = useMemo(() => tunables(project, design, resolved, keys), [project, design, resolved, keys]);
  const shown = keys.flatMap((key) => known.filter((t) => t.key === key));
  const profiles = useProfiles(project, design, shown);
  const startResolved = useResolved(project, start);
  const starts = useMemo(
    () => new Map(tunables(project, start, startResolved, keys).map((t) => [t.key, t.value])),
    [project, start, startResolved, keys],
  );
  const side = sideHeld(design);
  const boardNote = `${side === 'physical' ? 'copper held: impedances follow' : side === 'electrical' ? 'impedances held: copper follows' : 'what is held stays, the rest follows'}${shared.length > 0 ? `; moves ${shared.join(', ')} too` : ''}`;
  const take = useHandler((key: string) => setFree(design.id, key, false));
  const range = useHandler((key: string, ends: { from: string; to: string } | undefined) =>
    setRange(design.id, key, ends),
  );
  const move = useHandler((tunable: Tunable, value: number) =>
    behindHand(() =>
      edit(
        `tune ${tunable.label}`,
        (p) => tuned(p, design.id, tunable, tunable.min === undefined ? value : Math.max(tunable.min, value)),
        `${design.id}:tune:${tunable.key}`,
      ),
    ),
  );
  if (shown.length === 0) return <NothingYet />;
  return shown.map((tunable) => (
    <Knob
      key={tunable.key}
      tunable={tunable}
      profile={profiles.get(tunable.key)}
      start={starts.get(tunable.key)}
      onMove={move}
      onTake={take}
      onRange={range}
      ends={design.ranges?.find((r) => r.key === tunable.key)}
      note={tunable.key.startsWith('stack:') ? boardNote : undefined}
    />
  ));
}

interface ToolsProps {
  readonly commands: () => Command[];
  readonly atStart: boolean;
  readonly count: number;
  readonly open: boolean;
  readonly onBack: () => void;
  readonly onStart: () => void;
  readonly onKeep: () => void;
  readonly onOpen: (open: boolean) => void;
  readonly onMeet: (() => void) | undefined;
  readonly meeting: boolean;
}

/** What is done with the strip as a whole; it stands still while a value moves. */
const Tools = memo(function Tools(props: ToolsProps) {
  const { commands, atStart, count, open, onBack, onStart, onKeep, onOpen, onMeet, meeting } = props;
  return (
    <Aside>
      <div>
        <Menu label="Tune ▾" ariaLabel="put a value on the tuning strip" commands={commands} />
        <TextButton isDisabled={atStart} onPress={onBack} aria-label="back to the start">
          back to start
        </TextButton>
        {!atStart && (
          <TextButton
            onPress={onStart}
            aria-label="make the present state the start"
            style={{ marginLeft: 8 }}
          >
            make this the start
          </TextButton>
        )}
      </div>
      <div>
        <TextButton onPress={onKeep} style={{ marginLeft: 10 }}>
          keep this state
        </TextButton>
        <TextButton
          style={{ marginLeft: 8 }}
          isDisabled={count === 0}
          aria-expanded={open}
          onPress={() => onOpen(!open)}
        >
          {count === 0 ? 'no attempts' : count === 1 ? '1 attempt' : `${count} attempts`}
        </TextButton>
        {meeting ? (
          <Quiet style={{ marginLeft: 8 }}>searching …</Quiet>
        ) : (
          <TextButton
            style={{ marginLeft: 8 }}
            isDisabled={!onMeet}
            aria-label="meet the limits of the plots"
            {...helpHandlers(
              'Meet the limits',
              onMeet
                ? 'Searches for values on this strip with which the modelled response keeps the limits of all plots; without values here the copper is moved. What is given, such as the load, stays. You see what comes of it before you take it.'
                : 'Set limits from a plot\u2019s menu first; then the values on this strip can be searched for what keeps them.',
            )}
            onPress={onMeet}
          >
            meet limits
          </TextButton>
        )}
      </div>
    </Aside>
  );
});

/** Profiles of the values shown, worked out once the hand rests. */
function useProfiles(
  project: Project,
  design: Design,
  shown: readonly Tunable[],
): ReadonlyMap<string, Profile> {
  const [profiles, setProfiles] = useState<ReadonlyMap<string, Profile>>(new Map());
  // A profile that cannot be had is left out; the response says what is wrong.
  const ask = useLatest('profiles', (list) => setProfiles(new Map(list?.map((p) => [p.key, p]))));
  const latest = useHandler(() => {
    if (shown.length === 0) return;
    const only = alone(project, { ...design, attempts: [] });
    const watched = design.plots?.find((p) => p.show !== 'smith');
    ask({ project: only, design: design.id, tunables: shown, points: POINTS, watched });
  });
  const keys = shown.map((t) => t.key).join();
  useEffect(() => {
    const timer = setTimeout(latest, 150);
    return () => clearTimeout(timer);
  }, [latest, project.stacks, project.data, design.values, design.pieces, design.plots, design.ranges, keys]);
  return profiles;
}
