import { dataBlock, type DataBlock, type Design, type Plot, type ResolvedDesign } from '@ditch/core/network';
import { measures, type Roles } from '@ditch/core/plots';
import { formatComplex, formatNumber, formatQuantity } from '@ditch/core/units';
import { smithGrids, type SmithGridName } from '../../charts/SmithGrid';
import type { Command } from '../../controls/command';
import { chooseTouchstone } from '../../store/library';
import { addMarker, addOverlay, setPlots, toggleOverlay } from '../edits';
import { setPreferences } from '../hooks';
import type { LevelData } from './plots';

/** A plot with all that its commands look at. */
export interface PlotInHand {
  readonly plot: Plot;
  /** All plots of the design, this one among them. */
  readonly plots: readonly Plot[];
  readonly roles: Roles;
  readonly design: Design;
  readonly resolved: ResolvedDesign;
  readonly data: readonly DataBlock[];
  /** What each level answers, the least true to the copper first. */
  readonly answers: readonly LevelData[];
  readonly grids: readonly SmithGridName[];
  readonly waiting: boolean;
  /** Opens the dialog of a plot. */
  readonly edit: (plot: string) => void;
}

const MOST = 6;

/** A frequency as it would be typed. */
export const typedFrequency = (f: number): string =>
  formatQuantity(f, 'frequency', { digits: 6, typed: true });

/** What may be shown in a plot's place. */
function showing({ plot, plots, roles, design, edit }: PlotInHand): Command[] {
  const show = (id: string, name: string): Command => ({
    id: `show-${id}`,
    group: 'Show',
    label: name,
    note: plot.show === id ? 'shown' : undefined,
    run: () => {
      setPlots(
        design.id,
        `show ${name.toLowerCase()}`,
        plots.map((p) => (p.id === plot.id ? { id: p.id, show: id, formulas: p.formulas } : p)),
      );
      if (id === 'formula' && !plot.formulas?.length) edit(plot.id);
    },
  });
  return [
    ...measures.filter((m) => m.available(roles)).map((m) => show(m.id, m.name)),
    show('smith', 'Smith chart'),
    show('formula', 'Formulas on results'),
  ];
}

/** What a Smith chart is ruled with. */
const ruling = ({ plot, grids }: PlotInHand): Command[] =>
  plot.show !== 'smith'
    ? []
    : smithGrids.map((g) => ({
        id: `grid-${g.id}`,
        group: 'Grid',
        label: `${grids.includes(g.id) ? 'Hide' : 'Show'} ${g.label}`,
        run: () =>
          setPreferences({
            grids: grids.includes(g.id) ? grids.filter((x) => x !== g.id) : [...grids, g.id],
          }),
      }));

const DIALOGS: Readonly<Record<string, string>> = {
  formula: 'Formulas and limits\u2026',
  smith: 'Plane and reference\u2026',
};

/** Where a plot stands among the others. */
function arranging({ plot, plots, roles, design, edit }: PlotInHand): Command[] {
  const at = plots.findIndex((p) => p.id === plot.id);
  const arrange = (label: string, next: readonly Plot[]) => setPlots(design.id, label, next);
  const swap = (other: number) => {
    const next = [...plots];
    [next[at], next[other]] = [next[other], next[at]];
    arrange('move a plot', next);
  };
  const command = (id: string, label: string, run: () => void, disabled = false): Command => ({
    id,
    group: 'Arrange',
    label,
    disabled,
    run,
  });
  return [
    command('edit', DIALOGS[plot.show] ?? 'Limits\u2026', () => edit(plot.id)),
    command(
      'add',
      'Add a plot beside it',
      () => {
        const free = measures.find((m) => m.available(roles) && !plots.some((p) => p.show === m.id));
        const next = [...plots];
        next.splice(at + 1, 0, { id: `p${Date.now().toString(36)}`, show: free?.id ?? 'match' });
        arrange('add a plot', next);
      },
      plots.length >= MOST,
    ),
    command('left', 'Move left', () => swap(at - 1), at === 0),
    command('right', 'Move right', () => swap(at + 1), at === plots.length - 1),
    command(
      'remove',
      'Remove this plot',
      () =>
        arrange(
          'remove a plot',
          plots.filter((p) => p.id !== plot.id),
        ),
      plots.length === 1,
    ),
  ];
}

/** What is laid beside its curves. */
function comparing({ design, resolved, data, answers, waiting }: PlotInHand): Command[] {
  const { stack, sweep } = resolved;
  const keep = ({ level, data: response }: LevelData): Command => ({
    id: `keep-${level}`,
    group: 'Compare',
    label: `Keep the ${level} curve`,
    disabled: !response || waiting,
    run: () => {
      const zl = resolved.values.get('zl');
      const load = zl ? `, ${formatComplex(zl.re, zl.im, 'impedance', { digits: 3 })}` : '';
      const board = stack ? `, \u03B5r ${formatNumber(stack.substrate.er, 3)}` : '';
      addOverlay(design.id, dataBlock(`${level}${load}${board}`, 'kept', response!));
    },
  });
  return [
    ...answers.toReversed().map(keep),
    {
      id: 'import',
      group: 'Compare',
      label: 'Import Touchstone\u2026',
      run: () => void chooseTouchstone().then((block) => block && addOverlay(design.id, block)),
    },
    ...data.map((d): Command => ({
      id: `overlay-${d.id}`,
      group: 'Compare',
      label: `${design.overlays.includes(d.id) ? 'Hide' : 'Show'} ${d.name}`,
      run: () => toggleOverlay(design.id, d),
    })),
    {
      id: 'marker',
      group: 'Compare',
      label: 'Add a marker',
      note: 'M',
      disabled: !sweep,
      run: () => sweep && addMarker(design.id, typedFrequency((sweep.start + sweep.stop) / 2)),
    },
  ];
}

/** What can be done with a plot. */
export const plotCommands = (plot: PlotInHand): Command[] =>
  [showing, ruling, arranging, comparing].flatMap((list) => list(plot));
