import { useEffect, useMemo, useRef, useState, type ReactNode } from 'react';
import styled from 'styled-components';
import { grow, openNodes } from '@ditch/core/grow';
import { lineKinds } from '@ditch/core/lines';
import { emptyDesign, emptyProject, resolveDesign, scopeHelp } from '@ditch/core/network';
import { parts, type PartDefinition } from '@ditch/core/parts';
import { recipes } from '@ditch/core/recipes';
import { laminates, stackFields } from '@ditch/core/stack';
import { finder, SearchBox } from '../controls/SearchBox';
import { colour } from '../theme';
import { Picture } from './design/Picture';

const Page = styled.div<{ $beside: boolean }>`
  display: grid;
  grid-template-columns: ${({ $beside }) => ($beside ? 'minmax(0, 1fr)' : '200px minmax(0, 1fr)')};
  grid-template-rows: ${({ $beside }) => ($beside ? 'auto minmax(0, 1fr)' : 'minmax(0, 1fr)')};
  gap: 0 32px;
  max-width: 1120px;
  height: 100%;
  margin: 0 auto;
  padding: ${({ $beside }) => ($beside ? '12px 16px 0' : '20px 24px 0')};
  h1 {
    font-size: 18px;
    margin-bottom: 8px;
  }
`;
const Contents = styled.nav`
  ul {
    margin-top: 10px;
  }
  a {
    display: block;
    padding: 3px 0;
  }
`;
const Text = styled.div<{ $beside: boolean }>`
  min-height: 0;
  overflow: auto;
  padding-bottom: 40px;
  h2 {
    margin: 22px 0 6px;
    font-size: 14px;
  }
  section:first-child h2 {
    margin-top: 0;
  }
  dl > div {
    display: grid;
    grid-template-columns: ${({ $beside }) => ($beside ? '118px' : '210px')} minmax(0, 1fr);
    gap: 0 14px;
    padding: 5px 0;
    border-top: 1px solid ${colour('rule')};
  }
  dl > div:target,
  dl > div[data-asked] {
    background: ${colour('waterSoft')};
  }
  dt {
    font-weight: 600;
    overflow-wrap: anywhere;
  }
  dd div {
    width: 214px;
    height: 92px;
  }
  small {
    display: block;
    margin-top: 3px;
    color: ${colour('quiet')};
    font-size: 11px;
  }
`;

/** A part between short lines, as it is grown on the first laminate. */
function Sample({ part }: { part: PartDefinition }) {
  const resolved = useMemo(() => {
    const empty = emptyDesign('sample', laminates[0].id, 'microstrip', '10 GHz');
    const [variant] = part.variants;
    let { design } = grow(empty, undefined, variant.id);
    if (part.kind !== 'port' && !part.line)
      for (const node of openNodes(design)) {
        const line = grow(design, node, 'line');
        design = {
          ...line.design,
          pieces: line.design.pieces.map((p) =>
            p.id === line.piece
              ? { ...p, held: { z0: design.pieces[1] === undefined ? '50 ohm' : '70 ohm', theta: '35 deg' } }
              : p,
          ),
        };
      }
    return resolveDesign({ ...emptyProject('sample', laminates[0]), designs: [design] }, design);
  }, [part]);
  return <Picture resolved={resolved} />;
}

const keys: readonly (readonly [string, string])[] = [
  ['F1 in a field', 'this help beside the work, at that field'],
  ['Ctrl Z, Ctrl Shift Z', 'undo, redo'],
  ['Ctrl E', 'export the project file'],
  ['Ctrl Enter', 'solve the copper of the design as it stands'],
  ['\u2191 \u2193 in a field', 'step the value; Shift ten times finer, Alt ten times coarser'],
  ['Escape in a field', 'back to the value it had'],
  ['drag on a field\u2019s name', 'change the value by pointer; Shift finer'],
  ['Enter on a pin of the copper', 'grow, join or paste there; the first letters choose'],
  ['Enter on a piece', 'select it; Escape lets it go'],
  ['S, M, Delete on a piece', 'split in the middle, mirror, remove and close up'],
  ['Ctrl C on a piece', 'copy it, to be pasted at an open pin of any design'],
  ['\u2190 \u2192 on a handle', 'shorter or narrower, longer or wider; Shift finer'],
  ['double click on a line', 'split it there'],
  ['wheel, drag, 0 on the copper', 'zoom, move, show all'],
  ['\u2190 \u2192 in a chart', 'move the reading cursor; Shift ten samples'],
  ['\u2191 \u2193, page keys in a chart', 'pan'],
  ['+ \u2212 0 in a chart', 'zoom in, zoom out, show all'],
  ['M in a chart', 'set a marker at the cursor'],
  ['\u2190 \u2192 Delete on a marker', 'move it, remove it'],
  [
    '\u2190 \u2192 on an arc of the Smith chart',
    'shorter, longer by 1 %; Shift a tenth of it, Alt ten times',
  ],
  ['drag the end of an arc', 'the piece follows as far as its own arc comes near'],
  [
    '\u2190 \u2192, page keys on the tuning strip',
    'step a value; Shift finer, Alt coarser; Home: back to the start',
  ],
  ['type into a value on the strip', 'Enter keeps it, Escape brings back what was'],
  ['drag on the tuning strip', 'the slower the pointer the finer the step; Shift finer still'],
  ['\u2191 \u2193 on the waterline', 'give copper or response more room'],
  ['arrows on a design of a panel', 'move it by 1 mm, Shift by 0.1 mm; T turns it, Delete takes it off'],
  [
    'arrows, + \u2212 0 on a board',
    'look around; M measures, arrows and Enter then take hold of what is measured',
  ],
  ['arrows, + \u2212 0 on a solid', 'turn it, with Shift move it; zoom, show all'],
];

interface Entry {
  /** Its anchor. */
  readonly id: string;
  readonly title: string;
  readonly text: ReactNode;
  /** What a search looks through. */
  readonly words: string;
}
interface Chapter {
  readonly id: string;
  readonly title: string;
  readonly about?: string;
  readonly entries: readonly Entry[];
}

const slug = (text: string): string =>
  text
    .toLowerCase()
    .normalize('NFKD')
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '');

const entry = (prefix: string, title: string, text: string, more?: ReactNode, source = ''): Entry => ({
  id: `${prefix}-${slug(title)}`,
  title,
  words: `${title} ${text} ${source}`.toLowerCase(),
  text: (
    <>
      {text}
      {more}
    </>
  ),
});

const START: readonly (readonly [string, string])[] = [
  [
    'A design',
    'is copper made of pieces. Each has an electrical face (impedance, angle) and a physical one (width, length). You hold one side, marked by a dot; the other follows the board, the frequency and the named values.',
  ],
  [
    'Three levels',
    'of the response lie over one another: ideal (dotted; lossless lines, ideal joints), modelled (drawn; dispersion, loss, junctions) and solved (heavy; the field solution of the copper as one piece of metal). The waterline between copper and response says what lies between them. The first two follow every edit; the third is asked for there, tells before what it takes, and stays as it was, marked so, when the copper changes.',
  ],
  [
    'Holding the copper',
    'keeps all widths and lengths while the board changes, to see what a batch of laminate does to what is etched already; the ledger says which side is held, and one action brings the electrical side back.',
  ],
  [
    'Surroundings',
    'are a lid, given with the board, and side walls, put around a design beside it: how far each stands from the copper, 0 where ports reach it. The solved level alone knows the walls. Where the box resonates inside of the sweep stands beside its cut, in the review and on the frequency axis.',
  ],
  [
    'Free copper',
    'has any outline: corners typed with expressions, moved by hand, or read from a DXF or Gerber file, with pins at the sides that are named. Only the solved level knows what it does.',
  ],
  [
    'Growing',
    'a network goes on from its pins: Enter or a click on one offers all parts. Lengths are measured along the centre lines, to the point where they meet at a junction.',
  ],
  [
    'Retuning',
    'trims the copper until the modelled response stands where the ideal one does; the electrical faces stay as they are, and what is symmetric stays symmetric.',
  ],
  [
    'Retuning by solving',
    'brings the solved response back, to the ideal one or into the limits, with at most four field solutions: how far the modelled copper is off is learnt from each, and taken off the next. It is found beside Solve.',
  ],
  [
    'Families',
    'take one or two values in steps: curves from light to dark, what is read off them over the value, a map over two. Of the board the copper stays what it is. A member becomes the design by one step; a family that was kept is drawn beside later ones. At the solved level its members are a queue, of which what is done is kept.',
  ],
  [
    'Pieces on solved data',
    'A piece, or several as one, is solved by itself over ranges of its sizes and of the board, once: open it in the ledger, or ask which piece makes the difference. The modelled level stands on it from then on at its own speed, in tuning, searches, families and spread, with its error said. Beyond the ranges its model comes back little by little, and the review says so. It goes with the project file, from which other projects take it.',
  ],
  [
    'Spread and yield',
    'come from plus and minus what a value, the board or the etching comes out as. Samples are taken until the yield is known as well as asked; what costs the most is named, the worst corner looked at, and centring moves the design to where more of it is good.',
  ],
  [
    'The copper leaves',
    'by Export or from Making: Gerber X2 with the drill file, DXF, GDSII, SVG at scale 1, a picture, a bill of the mounted parts, and as copper that can be solved without the project. Arcs keep within a micrometre; the board ends where lines end at ports. Data of any response, as S, Y or Z, leaves from one place under Export, which says what it will write.',
  ],
  [
    'Making',
    'shows a design as the board that a shop gets, or several on a panel: moved by hand, by the arrow keys or by typing, and never over one another. Names are etched where no copper is, launches stand beside ports at the rim, fences keep three heights of the board away from everything else; responses know nothing of what stands beside a design here. A rim may be taken from a DXF or Gerber file.',
  ],
  [
    'Checks',
    'look at the board as it is drawn: narrow copper and gaps, slivers, copper and holes at the rim, drills, annular rings, words. What the shop can make stands beside the panel, its least widths and gaps with the board. Each finding has its place, which it leads to, and a remedy.',
  ],
  [
    'A solid',
    'of the board has its copper as thick as it is, or thicker where it is to be seen; of a design the current at the design frequency can be laid on it, with a wave into port 1.',
  ],
  [
    'A report',
    'puts a design on paper: goal, theory, board, copper, ledger, every level, review, spread and checks. It is printed, kept as PDF through the browser, or saved as one HTML file; a checkpoint of just this state is named in it.',
  ],
  [
    'Solving elsewhere',
    'is offered beside Solve where the server has a queue: sent are the copper, the board and the ports, no names. The same copper is solved once for everybody who asks; members of a family are sent side by side.',
  ],
  [
    'The Smith chart',
    'draws the way from the load to the source piece by piece; the end of each arc is a handle. From any pin of the copper the chart can look into what lies beyond.',
  ],
  [
    'The tuning strip',
    'at the foot shows how the curves of the first plot follow its values before they are touched. The same values can be searched for what keeps the limits of all plots, within the range each was given. A diamond beside a value in the ledger puts it there; pieces that it moves carry one on the copper.',
  ],
  [
    'Numbers',
    'may be typed in any unit. A bare number in an impedance is ohm, in an angle degrees, in a level dB. Markers, matches and limits are computed at their own frequencies, however coarse the sweep; data from files is read between its samples.',
  ],
  [
    'Nothing is lost',
    'Every edit is stored as it is made, with its undo; checkpoints keep a state under a name; the project file carries all of it away. Once loaded, the page works without its server.',
  ],
];

const chaptersOf = (): readonly Chapter[] => [
  { id: 'start', title: 'How Ditch works', entries: START.map(([t, text]) => entry('start', t, text)) },
  { id: 'keys', title: 'Keys', entries: keys.map(([key, about]) => entry('key', key, about)) },
  {
    id: 'expressions',
    title: 'Expressions',
    about:
      'Every field takes a quantity with its unit or an expression of the design\u2019s named values. Dimensions are checked.',
    entries: scopeHelp.map((s) => entry('expression', s.name, s.about)),
  },
  {
    id: 'board',
    title: 'Board',
    entries: stackFields.map((f) => entry('field', f.label, f.help)),
  },
  {
    id: 'fields',
    title: 'Fields of pieces',
    entries: [
      ...new Map(
        [...parts.values()].flatMap((p) =>
          p.properties.flatMap((x) => x.faces.map((f) => [f.label, f] as const)),
        ),
      ).values(),
    ].map((f) => entry('field', f.label, f.help)),
  },
  {
    id: 'lines',
    title: 'Lines',
    entries: Object.values(lineKinds).map((k) => entry('line', k.name, k.about)),
  },
  {
    id: 'parts',
    title: 'Parts',
    // Of parts that differ in a number the common ones.
    entries: [...parts.values()]
      .filter((p) => p.variants.some((v) => !v.seldom) || p.variants.length === 0)
      .map((p) =>
        entry(
          'part',
          p.name,
          p.about,
          <>
            {p.source && <small>{p.source}</small>}
            <div>
              <Sample part={p} />
            </div>
          </>,
          p.source,
        ),
      ),
  },
  {
    id: 'recipes',
    title: 'Recipes',
    entries: [...recipes.values()].map((r) =>
      entry('recipe', r.name, r.about, <small>{r.source}</small>, r.source),
    ),
  },
];

/** What the keyboard does, what expressions know, what fields, models and parts are; to be searched. */
export function HelpText({ asked, beside = false }: { asked?: string; beside?: boolean }) {
  const [search, setSearch] = useState('');
  const [chapters] = useState(chaptersOf);
  const text = useRef<HTMLDivElement>(null);
  const wanted = asked === undefined ? undefined : `field-${slug(asked)}`;
  useEffect(() => {
    if (wanted) text.current?.querySelector(`#${CSS.escape(wanted)}`)?.scrollIntoView({ block: 'start' });
  }, [wanted]);
  const isFound = finder(search);
  const left = chapters
    .map((c) => ({ ...c, entries: c.entries.filter((e) => isFound(e.words)) }))
    .filter((c) => c.entries.length > 0);
  return (
    <Page $beside={beside}>
      <div>
        <SearchBox label="search the help" value={search} onChange={setSearch} />
        {!beside && (
          <Contents aria-label="Contents of the help">
            <ul>
              {left.map((c) => (
                <li key={c.id}>
                  <a href={`#${c.id}`}>{c.title}</a>
                </li>
              ))}
            </ul>
          </Contents>
        )}
      </div>
      <Text ref={text} $beside={beside} tabIndex={0} role="region" aria-label="How Ditch works">
        {left.map((c) => (
          <section key={c.id} id={c.id}>
            <h2>{c.title}</h2>
            {c.about && <p style={{ marginBottom: 6 }}>{c.about}</p>}
            <dl>
              {c.entries.map((e) => (
                <div key={e.id} id={e.id} data-asked={e.id === wanted || undefined}>
                  <dt>{e.title}</dt>
                  <dd>{e.text}</dd>
                </div>
              ))}
            </dl>
          </section>
        ))}
        {left.length === 0 && <p>Nothing here says “{search}”.</p>}
      </Text>
    </Page>
  );
}

export default function HelpView() {
  return <HelpText />;
}
