import styled from 'styled-components';
import {
  fenceFields,
  launchFields,
  panelFields,
  placeFields,
  type LengthField,
  type PanelProblem,
  type Tile,
} from '@ditch/core/making';
import { enclosureSides, type EnclosureSide, type Panel, type Project } from '@ditch/core/network';
import { Quiet, SectionTitle, TextButton } from '../../controls/basics';
import type { Command } from '../../controls/command';
import { Menu } from '../../controls/Menu';
import { NameInput } from '../../controls/NameInput';
import { ErrorText, QuantityInput } from '../../controls/QuantityInput';
import { colour } from '../../theme';
import {
  changePanel,
  changePlaced,
  MOST_PANELS,
  MOST_PLACED,
  takeOff,
  toggleExtra,
  turnPlaced,
  type BEGINNINGS,
} from './panelEdits';

const Part = styled.section`
  padding: 12px 16px;
  border-bottom: 1px solid ${colour('rule')};
`;
export const Fields = styled.div`
  display: grid;
  grid-template-columns: 96px minmax(0, 1fr);
  align-items: center;
  gap: 2px 8px;
  font-size: 12px;
`;
const Row = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  margin-top: 6px;
`;
const Placed = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr) auto auto;
  align-items: center;
  gap: 0 6px;
  padding: 4px 0;
  border-top: 1px solid ${colour('rule')};
  font-size: 12px;
  > b {
    grid-column: 1 / 3;
    overflow: hidden;
    font-weight: 600;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  > p {
    grid-column: 1 / -1;
  }
`;
const Sides = styled.div`
  grid-column: 1 / -1;
  display: flex;
  gap: 10px;
  label {
    display: inline-flex;
    align-items: center;
    gap: 4px;
  }
`;

/** What may be put on a panel beside its designs. */
const EXTRAS: readonly {
  readonly id: keyof typeof BEGINNINGS;
  readonly label: string;
  readonly what: string;
}[] = [
  { id: 'letters', label: 'Etched names', what: 'names and port numbers in the copper' },
  { id: 'marks', label: 'Alignment marks', what: 'round marks in three corners' },
  { id: 'launches', label: 'Launches', what: 'ground beside ports at the rim, for connectors' },
  { id: 'fence', label: 'Via fence', what: 'holes to ground along the rim' },
];

interface PanelFormProps {
  readonly project: Project;
  readonly panel: Panel;
  readonly problems: readonly PanelProblem[];
  readonly tiles: readonly Tile[];
  readonly onPut: (design: string) => void;
  readonly onArrange: () => void;
  readonly onRim: () => void;
  readonly onCopy: () => void;
  readonly onRemove: () => void;
}

/** A panel in fields: its size, what is on it and where, what is put around it. */
export function PanelForm(props: PanelFormProps) {
  const { project, panel, problems, tiles, onPut, onArrange, onRim, onCopy, onRemove } = props;
  const set = (field: string, change: (p: Panel) => Panel) =>
    changePanel(panel.id, `change ${panel.name}: ${field}`, change, field);
  const problemAt = (field: string, placed?: string) =>
    problems.find((p) => p.field === field && p.placed === placed)?.message;
  const own = (field: (typeof panelFields)[number]['field']) => {
    const info = panelFields.find((f) => f.field === field)!;
    const sized = field === 'width' || field === 'height';
    return (
      <label key={field} style={{ display: 'contents' }}>
        <span>{info.label}</span>
        <QuantityInput
          label={`${info.label} of the panel`}
          help={info.help}
          kind="length"
          value={panel[field] ?? ''}
          placeholder={sized ? (panel.outline ? 'as drawn' : 'as needed') : undefined}
          error={problemAt(field)}
          onChange={(text) => set(field, (p) => ({ ...p, [field]: text }))}
        />
      </label>
    );
  };
  const group = <G extends 'launches' | 'fence', T extends string>(
    name: G,
    fields: readonly LengthField<T>[],
    texts: Readonly<Record<T, string>>,
  ) =>
    fields.map((info) => (
      <label key={info.field} style={{ display: 'contents' }}>
        <span>{info.label}</span>
        <QuantityInput
          label={`${info.label}, ${name}`}
          help={info.help}
          kind="length"
          value={texts[info.field]}
          error={problemAt(`${name}.${info.field}`)}
          onChange={(text) =>
            set(`${name}.${info.field}`, (p) => ({ ...p, [name]: { ...p[name], [info.field]: text } }))
          }
        />
      </label>
    ));
  const first = panel.placed.map((p) => project.designs.find((d) => d.id === p.design)).find((d) => d);
  const designs = (): Command[] =>
    project.designs.map((d) => {
      const fits = !first || (d.stack === first.stack && d.medium === first.medium);
      return {
        id: d.id,
        label: d.name,
        disabled: !fits || panel.placed.length >= MOST_PLACED,
        note: fits ? undefined : 'another board',
        run: () => onPut(d.id),
      };
    });
  const turnSide = (side: EnclosureSide, on: boolean) =>
    set('fence.sides', (p): Panel =>
      p.fence
        ? {
            ...p,
            fence: {
              ...p.fence,
              sides: enclosureSides.filter((s) => (s === side ? on : p.fence!.sides.includes(s))),
            },
          }
        : p,
    );
  return (
    <>
      <Part aria-label="Panel">
        <SectionTitle>Panel</SectionTitle>
        <Fields>
          <span>Name</span>
          <NameInput
            label="Name of the panel"
            value={panel.name}
            onChange={(name) => set('name', (p) => ({ ...p, name }))}
          />
          {panel.outline ? (
            <>
              <span>Rim</span>
              <span>
                drawn, {panel.outline.length} corners{' '}
                <TextButton
                  onPress={() =>
                    changePanel(panel.id, 'take the drawn rim away', (p) => ({ ...p, outline: undefined }))
                  }
                >
                  take away
                </TextButton>
              </span>
            </>
          ) : (
            (['width', 'height'] as const).map(own)
          )}
          {own('margin')}
        </Fields>
        <Row>
          {!panel.outline && <TextButton onPress={onRim}>rim from a drawing…</TextButton>}
          <TextButton isDisabled={(project.panels?.length ?? 0) >= MOST_PANELS} onPress={onCopy}>
            copy
          </TextButton>
          <TextButton onPress={onRemove}>remove</TextButton>
        </Row>
      </Part>
      <Part aria-label="Designs on the panel">
        <SectionTitle>
          On it
          <span style={{ display: 'inline-flex', gap: 6, textTransform: 'none' }}>
            {tiles.length > 1 && <TextButton onPress={onArrange}>arrange</TextButton>}
            <Menu label="put a design ▾" commands={designs} />
          </span>
        </SectionTitle>
        {panel.placed.length === 0 && (
          <Quiet style={{ fontSize: 12 }}>Nothing yet. Put designs on it; they never overlap.</Quiet>
        )}
        {panel.placed.map((placed) => {
          const name = project.designs.find((d) => d.id === placed.design)?.name ?? 'a design that is gone';
          const wrong = problems.filter((p) => p.placed === placed.id && !p.field);
          return (
            <Placed key={placed.id} role="group" aria-label={name}>
              <b title={name}>{name}</b>
              <TextButton aria-label={`Turn ${name}`} onPress={() => turnPlaced(panel.id, placed, name)}>
                {placed.turns ? `turned ${90 * placed.turns}°` : 'turn'}
              </TextButton>
              <TextButton aria-label={`Take ${name} off`} onPress={() => takeOff(panel.id, placed.id, name)}>
                take off
              </TextButton>
              {placeFields.map((info) => (
                <QuantityInput
                  key={info.field}
                  label={`${info.label} of ${name}`}
                  help={info.help}
                  kind="length"
                  value={placed[info.field]}
                  error={problemAt(info.field, placed.id)}
                  onChange={(text) =>
                    changePlaced(
                      panel.id,
                      placed.id,
                      `move ${name}`,
                      { [info.field]: text },
                      `${placed.id}:${info.field}`,
                    )
                  }
                />
              ))}
              {wrong.map((p) => (
                <ErrorText key={p.message}>It {p.message}.</ErrorText>
              ))}
            </Placed>
          );
        })}
      </Part>
      <Part aria-label="Beside the designs">
        <SectionTitle>Beside them</SectionTitle>
        {EXTRAS.map(({ id, label, what }) => {
          const has = panel[id] !== undefined;
          return (
            <div key={id} style={{ paddingTop: 4, fontSize: 12 }}>
              <Row style={{ justifyContent: 'space-between', marginTop: 0 }}>
                <span>
                  {label} {!has && <Quiet>· {what}</Quiet>}
                </span>
                <TextButton
                  aria-label={`${has ? 'Take away' : 'Add'}: ${label}`}
                  onPress={() => toggleExtra(panel, id)}
                >
                  {has ? 'take away' : 'add'}
                </TextButton>
              </Row>
              {has && (
                <Fields>
                  {id === 'letters' && own('letters')}
                  {id === 'marks' && own('marks')}
                  {id === 'launches' && panel.launches && group('launches', launchFields, panel.launches)}
                  {id === 'fence' && panel.fence && (
                    <>
                      {group('fence', fenceFields, panel.fence)}
                      <Sides role="group" aria-label="sides with a fence">
                        {enclosureSides.map((side) => (
                          <label key={side}>
                            <input
                              type="checkbox"
                              checked={panel.fence!.sides.includes(side)}
                              onChange={(event) => turnSide(side, event.target.checked)}
                            />
                            {side}
                          </label>
                        ))}
                      </Sides>
                    </>
                  )}
                </Fields>
              )}
            </div>
          );
        })}
      </Part>
    </>
  );
}
