import { useEffect, useMemo, useRef, useState } from 'react';
import styled from 'styled-components';
import {
  alone,
  solvableSizes,
  standings,
  standingOn,
  standOn,
  type DataBlock,
  type SizeRange,
  type SolvableSize,
} from '@ditch/core/network';
import { parts } from '@ditch/core/parts';
import { accuracies, type Accuracy } from '@ditch/core/planar';
import type { BackingState } from '@ditch/core/studies/solved';
import { formatNumber, formatQuantity, QuantityError, readQuantity } from '@ditch/core/units';
import { run, runApart, type Steering } from '../../bridge/bridge';
import { Button, PrimaryButton, Quiet, Segments, TextButton } from '../../controls/basics';
import { download, fileName } from '../../controls/files';
import { ErrorText, QuantityInput } from '../../controls/QuantityInput';
import { Select } from '../../controls/Select';
import { useDerived, useLive, type Live } from '../../live';
import { chooseProject } from '../../store/library';
import { edit, editDesign, say } from '../../store/session';
import { colour } from '../../theme';
import { setPreferences, usePreferences } from '../hooks';
import { Card } from './SearchPanel';
import type { Scene } from './stage';

const Wide = styled(Card)`
  display: flex;
  flex-direction: column;
  gap: 6px;
  width: 404px;
  max-height: calc(100% - 24px);
  overflow: auto;
  p {
    min-height: 0;
    margin: 0;
  }
`;
const Pieces = styled.ul`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 10px;
  li {
    display: flex;
    align-items: baseline;
    gap: 4px;
  }
`;
const Sizes = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) 68px 82px 82px;
  align-items: center;
  gap: 0 8px;
  > span {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  > p,
  > small {
    grid-column: 1 / -1;
  }
`;
const Head = styled.span`
  color: ${colour('quiet')};
  font-size: 11px;
`;
const Standing = styled.ul`
  display: grid;
  gap: 4px;
  margin-bottom: 6px;
  padding-top: 6px;
  border-top: 1px solid ${colour('rule')};
  li {
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto;
    gap: 0 10px;
  }
`;
const Row = styled.div`
  display: flex;
  align-items: center;
  gap: 12px;
`;

/** Ends as typed. */
interface Ends {
  readonly from: string;
  readonly to: string;
}

/** Sizes that have ends at first, and by how much to either side: what is tuned by hand stays within. */
const FIRST = 4;
const AROUND = 0.1;
const ACCURACIES = accuracies.map((id) => ({ id, label: id }));

const kindOf = ({ board }: SolvableSize) => (board === 'er' ? 'number' : 'length');
const shown = (size: SolvableSize, x: number, digits = 4): string =>
  kindOf(size) === 'number'
    ? formatNumber(x, digits, true)
    : formatQuantity(x, 'length', { digits, typed: true });

/** Ends for the sizes that pieces begin with. */
const proposed = (sizes: readonly SolvableSize[]): Readonly<Record<string, Ends>> =>
  Object.fromEntries(
    sizes
      .filter((s) => !s.board)
      .slice(0, FIRST)
      .map((s) => [
        s.key,
        { from: shown(s, s.value * (1 - AROUND), 3), to: shown(s, s.value * (1 + AROUND), 3) },
      ]),
  );

/** What is typed as numbers, or what is wrong with it. */
function readEnds(sizes: readonly SolvableSize[], ends: Readonly<Record<string, Ends>>) {
  const ranges: SizeRange[] = [];
  const errors: Record<string, string> = {};
  for (const size of sizes) {
    const { from = '', to = '' } = ends[size.key] ?? {};
    if (from.trim() === '' && to.trim() === '') continue;
    try {
      const [low, high] = [from, to].map((text) => readQuantity(text, { kind: kindOf(size), min: 0 }).re);
      if (!(high > low)) errors[size.key] = 'the lower end comes first';
      else ranges.push({ key: size.key, from: low, to: high });
    } catch (error) {
      if (!(error instanceof QuantityError)) throw error;
      errors[size.key] = from.trim() === '' || to.trim() === '' ? 'needs both ends, or none' : error.message;
    }
  }
  return { ranges, errors };
}

/** What is under way, and how it is ended. */
interface Working {
  readonly state: BackingState | undefined;
  readonly share: number;
}

/**
 * Pieces that are solved over ranges of their sizes, once: from then on the modelled level stands on that, in tuning, families and
 * spread as well.
 */
export default function BackPanel({
  scene,
  first,
  onHover,
  onClose,
}: {
  scene: Live<Scene>;
  /** Pieces to begin with. */
  first: readonly string[];
  onHover: (piece: string | undefined) => void;
  onClose: () => void;
}) {
  const resolved = useLive(useDerived(() => scene.value.resolved, [scene], Object.is));
  const { id } = scene.peek().design;
  const [chosen, setChosen] = useState(first);
  const there = new Map(resolved.pieces.map((p) => [p.id, p]));
  const ids = chosen.filter((piece) => there.has(piece));
  const sizes = solvableSizes(resolved, ids);
  const [ends, setEnds] = useState(() => proposed(sizes));
  const accuracy = usePreferences((p) => p.accuracy);
  const [working, setWorking] = useState<Working>();
  const [problem, setProblem] = useState<{
    readonly text: string;
    readonly at?: string | number | undefined;
  }>();
  const [done, setDone] = useState<string>();
  // While it is solved the work goes on beside it.
  const [folded, setFolded] = useState(false);
  const abort = useRef<AbortController>(undefined);
  const steering = useRef<Steering>(undefined);
  useEffect(
    () => () => {
      abort.current?.abort();
      onHover(undefined);
    },
    [onHover],
  );
  const { ranges, errors } = readEnds(sizes, ends);
  const others = resolved.pieces.filter(
    (p) => p.values && parts.get(p.kind)?.field === 'copper' && !ids.includes(p.id),
  );
  const choose = (next: readonly string[]) => {
    setChosen(next);
    setProblem(undefined);
    // What was typed for a size that is still there stays.
    const now = solvableSizes(resolved, next);
    setEnds({ ...proposed(now), ...ends });
  };
  // Another piece is asked for: at once, or when what is under way has come to its end.
  const [asked, setAsked] = useState(first);
  if (first !== asked && working === undefined) {
    setAsked(first);
    if (first.length > 0) choose(first);
  }
  const solve = () => {
    const own = new AbortController();
    abort.current = own;
    setProblem(undefined);
    setDone(undefined);
    setWorking({ state: undefined, share: 0 });
    const { project, design } = scene.peek();
    runApart(
      'backing',
      { project: alone(project, design), design, ids, ranges, accuracy },
      {
        signal: own.signal,
        onSteering: (s) => (steering.current = s),
        onProgress: (share, told) => setWorking({ share, state: told as BackingState | undefined }),
      },
    )
      .then((found) => {
        if ('problem' in found) return setProblem({ text: found.problem, at: found.at });
        const { block, backed, solves } = found.value;
        if (!scene.peek().project.designs.some((d) => d.id === id)) return;
        edit(`stand on ${block.name}`, (p) => standOn(p, id, block, backed));
        setDone(
          `${backed.length === 1 ? 'It stands' : `${backed.length} of them stand`} on ${solves} solutions now, S within ${formatNumber(block.over!.error, 2)} between them.`,
        );
      })
      .catch((error: unknown) => {
        if (!own.signal.aborted) setProblem({ text: error instanceof Error ? error.message : String(error) });
      })
      .finally(() => {
        if (abort.current !== own) return;
        setWorking(undefined);
        setFolded(false);
      });
  };
  const stop = () => {
    abort.current?.abort();
    setWorking(undefined);
  };
  const general = problem && !sizes.some((s) => s.key === problem.at) ? problem.text : undefined;
  return (
    <Wide aria-label="Pieces solved over their sizes">
      <h2>
        <span>Solve pieces over their sizes</span>
        <Row>
          {working && (
            <TextButton aria-expanded={!folded} onPress={() => setFolded(!folded)}>
              {folded ? 'unfold' : 'fold'}
            </TextButton>
          )}
          {!working && <TextButton onPress={onClose}>close</TextButton>}
        </Row>
      </h2>
      {working && (
        <>
          <p role="status">
            {working.state
              ? `Solved ${working.state.solved} of at most ${working.state.most} states${working.state.error === undefined ? '' : `; S within ${formatNumber(working.state.error, 2)} between them`}.`
              : 'Solving the middle of all ranges …'}
          </p>
          <Row>
            <Button
              isDisabled={working.state?.error === undefined}
              onPress={() => steering.current?.finish()}
            >
              Enough
            </Button>
            <TextButton autoFocus onPress={stop}>
              give up
            </TextButton>
            <Quiet>{Math.round(100 * working.share)} %</Quiet>
          </Row>
        </>
      )}
      {!(working && folded) && (
        <>
          <p>
            <Quiet>
              Solved once over ranges of sizes; the modelled level stands on it from then on, at its own
              speed, and families and spread do too.
            </Quiet>
          </p>
          <Pieces aria-label="pieces to be solved">
            {ids.map((piece) => (
              <li key={piece} onPointerEnter={() => onHover(piece)} onPointerLeave={() => onHover(undefined)}>
                {there.get(piece)!.name}
                <TextButton
                  aria-label={`leave out ${there.get(piece)!.name}`}
                  isDisabled={working !== undefined}
                  onPress={() => choose(ids.filter((p) => p !== piece))}
                >
                  ×
                </TextButton>
              </li>
            ))}
            {others.length > 0 && working === undefined && (
              <li style={{ minWidth: 130 }}>
                <Select
                  label="add a piece"
                  value=""
                  choices={[
                    { id: '', label: ids.length > 0 ? 'and also …' : 'choose a piece …' },
                    ...others.map((p) => ({ id: p.id, label: p.name })),
                  ]}
                  onChange={(piece) => piece !== '' && choose([...ids, piece])}
                />
              </li>
            )}
          </Pieces>
          {ids.length > 0 && (
            <Sizes role="group" aria-label="sizes to be solved over">
              <Head>size</Head>
              <Head>now</Head>
              <Head>from</Head>
              <Head>to</Head>
              {sizes.map((size) => (
                <SizeEditor
                  key={size.key}
                  size={size}
                  ends={ends[size.key] ?? { from: '', to: '' }}
                  error={errors[size.key] ?? (problem?.at === size.key ? problem.text : undefined)}
                  onChange={(next) => {
                    setEnds({ ...ends, [size.key]: next });
                    setProblem(undefined);
                  }}
                />
              ))}
            </Sizes>
          )}
          <Segments
            label="accuracy"
            value={accuracy}
            choices={ACCURACIES}
            onChange={(value) => setPreferences({ accuracy: value as Accuracy })}
          />
          {working === undefined && (
            <Row>
              <PrimaryButton
                isDisabled={ids.length === 0 || ranges.length === 0 || Object.keys(errors).length > 0}
                onPress={solve}
              >
                Solve
              </PrimaryButton>
              <Quiet>{ids.length > 0 && ranges.length === 0 && 'Give one size two ends at least.'}</Quiet>
            </Row>
          )}
          {general !== undefined && <ErrorText role="alert">It cannot be solved: {general}.</ErrorText>}
          {done !== undefined && <p role="status">{done}</p>}
          <StandingList scene={scene} ids={ids} onHover={onHover} />
        </>
      )}
    </Wide>
  );
}

function SizeEditor({
  size,
  ends,
  error,
  onChange,
}: {
  size: SolvableSize;
  ends: Ends;
  error: string | undefined;
  onChange: (ends: Ends) => void;
}) {
  const id = `${size.key}-error`;
  const field = (end: keyof Ends, word: string) => (
    <QuantityInput
      label={`${size.label}, ${word}`}
      help="Between these ends it is solved; empty at both: it stays what it is now."
      kind={kindOf(size)}
      value={ends[end]}
      placeholder="as it is"
      error={error}
      errorElsewhere={id}
      onChange={(text) => onChange({ ...ends, [end]: text })}
    />
  );
  return (
    <>
      <span title={size.label}>{size.label}</span>
      <span>{shown(size, size.value)}</span>
      {field('from', 'from')}
      {field('to', 'to')}
      {error !== undefined && <ErrorText id={id}>{error}</ErrorText>}
    </>
  );
}

const named = (names: readonly string[]): string =>
  names.length > 3 ? `${names[0]} and ${names.length - 1} more` : names.join(', ');

/** What stands on solved data already, and what could. */
function StandingList({
  scene,
  ids,
  onHover,
}: {
  scene: Live<Scene>;
  /** Pieces that are chosen. */
  ids: readonly string[];
  onHover: (piece: string | undefined) => void;
}) {
  const resolved = useLive(useDerived(() => scene.value.resolved, [scene], Object.is));
  const data = useLive(useDerived(() => scene.value.project.data, [scene], Object.is));
  const { id } = scene.peek().design;
  const chosen = ids.join();
  const { groups, offers } = useMemo(() => {
    const blocks = data.filter((d) => d.over);
    const standing = standings(resolved);
    return {
      groups: blocks.flatMap((block) => {
        const own = standing.filter((s) => s.backed.data === block.id);
        if (own.length === 0) return [];
        const least = own.map((s) => s.place).reduce((x, y) => (y.weight < x.weight ? y : x));
        return [
          {
            block,
            first: own[0].backed.pieces[0],
            name: named(own.map(({ pieces }) => named(pieces.map((p) => p.name)))),
            ...least,
          },
        ];
      }),
      offers: blocks.flatMap((block) => {
        const fitting = standingOn(block, resolved, chosen === '' ? [] : chosen.split(','));
        const free = fitting.filter(
          (b) => !resolved.backed.some((o) => o.data === b.data && o.pieces.join() === b.pieces.join()),
        );
        return free.length > 0 ? [{ block, backed: free }] : [];
      }),
    };
  }, [resolved, data, chosen]);
  const takeOff = (block: DataBlock, name: string) =>
    editDesign(id, `take ${name} off ${block.name}`, (d) => ({
      ...d,
      backed: (d.backed ?? []).filter((b) => b.data !== block.id),
    }));
  const save = (block: DataBlock) =>
    void run('backingFiles', { block }).then((zip) =>
      download(`${fileName(block.name)}.zip`, new Blob([Uint8Array.from(zip)], { type: 'application/zip' })),
    );
  const read = async () => {
    const project = await chooseProject();
    if (!project) return;
    const { resolved: now, project: own } = scene.peek();
    const found = project.data.flatMap((block) =>
      block.over && !own.data.some((d) => d.id === block.id)
        ? [{ block, backed: standingOn(block, now, ids) }]
        : [],
    );
    const fitting = found.filter(({ backed }) => backed.length > 0);
    if (fitting.length === 0)
      return say(
        found.length === 0
          ? `${project.name} holds no pieces solved over their sizes that are not here already.`
          : `Nothing that was solved in ${project.name} fits a piece of this design as it is.`,
      );
    edit(`stand on what was solved in ${project.name}`, (p) =>
      fitting.reduce((q, { block, backed }) => standOn(q, id, block, backed), p),
    );
  };
  return (
    <section aria-label="what stands on solved data">
      {groups.length + offers.length > 0 && (
        <Standing>
          {groups.map(({ block, first, name, weight, reasons }) => (
            <li
              key={block.id}
              onPointerEnter={() => onHover(first)}
              onPointerLeave={() => onHover(undefined)}
            >
              <span>
                {name}
                <br />
                <Quiet>
                  {block.over!.states.length} states, {block.over!.accuracy}, S within{' '}
                  {formatNumber(block.over!.error, 2)};{' '}
                  {weight === 1
                    ? 'in its ranges'
                    : weight === 0
                      ? `out of its ranges: ${reasons[0]}`
                      : `${Math.round(100 * weight)} % of it counts: ${reasons[0]}`}
                </Quiet>
              </span>
              <Row>
                <TextButton aria-label={`export ${block.name}`} onPress={() => save(block)}>
                  export
                </TextButton>
                <TextButton aria-label={`take ${name} off`} onPress={() => takeOff(block, name)}>
                  take off
                </TextButton>
              </Row>
            </li>
          ))}
          {offers.map(({ block, backed }) => (
            <li key={block.id}>
              <Quiet>{block.name}, solved before</Quiet>
              <TextButton
                aria-label={`stand on ${block.name}`}
                onPress={() => edit(`stand on ${block.name}`, (p) => standOn(p, id, block, backed))}
              >
                {backed.length === 1 ? 'stand on it' : `${backed.length} could stand on it`}
              </TextButton>
            </li>
          ))}
        </Standing>
      )}
      <TextButton onPress={() => void read()}>take what was solved from a project file</TextButton>
    </section>
  );
}
