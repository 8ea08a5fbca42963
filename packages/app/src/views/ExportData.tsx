import { useEffect, useMemo, useState } from 'react';
import styled from 'styled-components';
import { numberFormats, responseFormats, type NumberFormat, type ResponseFormat } from '@ditch/core/formats';
import { closest, levels, type LevelId } from '@ditch/core/levels';
import { resolveDesign } from '@ditch/core/network';
import { formatQuantity } from '@ditch/core/units';
import { run } from '../bridge/bridge';
import { Button, PrimaryButton, Quiet, Segments } from '../controls/basics';
import { Dialog } from '../controls/Dialog';
import { download, fileName } from '../controls/files';
import { Select } from '../controls/Select';
import { colour } from '../theme';
import { dataFile, type DataFile, type DataWish } from './exportResponse';
import { usePreferences, useProject } from './hooks';
import { useSolvedFamily } from './studies/useSolvedFamily';

const Rows = styled.div`
  display: grid;
  grid-template-columns: 100px minmax(0, 1fr);
  align-items: center;
  gap: 8px 12px;
`;
const Told = styled.p`
  min-height: 58px;
  margin: 14px 0;
  padding: 8px 12px;
  border: 1px solid ${colour('rule')};
  background: ${colour('page')};
  font-size: 12px;
  overflow-wrap: anywhere;
`;

const PARAMETERS = [
  { id: 's', label: 'S' },
  { id: 'y', label: 'Y' },
  { id: 'z', label: 'Z' },
] as const;
const NO_AXES = [] as const;

type Made =
  | { readonly kind: 'file'; readonly file: DataFile }
  | { readonly kind: 'zip'; readonly name: string; readonly bytes: Uint8Array };

const size = (bytes: number): string =>
  bytes < 1e5 ? `${(bytes / 1e3).toFixed(1)} kB` : `${(bytes / 1e6).toFixed(1)} MB`;

/** The one place from which parameters of any design, level and family leave, which says what it will write before it does. */
export default function ExportData({
  designId,
  onClose,
}: {
  readonly designId: string | undefined;
  readonly onClose: () => void;
}) {
  const project = useProject();
  const accuracy = usePreferences((p) => p.accuracy);
  const [chosen, setChosen] = useState(designId ?? project.designs[0]?.id);
  const [whole, setWhole] = useState('one');
  const [wish, setWish] = useState<DataWish>({
    level: closest.id,
    parameter: 's',
    file: 'touchstone-1',
    format: 'ri',
  });
  const change = (part: Partial<DataWish>) => setWish({ ...wish, ...part });
  const design = project.designs.find((d) => d.id === chosen);
  const axes = design?.family ?? NO_AXES;
  const family = whole === 'family' && axes.length > 0;
  const sweep = useMemo(() => design && resolveDesign(project, design).sweep, [project, design]);
  const solved = useSolvedFamily(
    project,
    design ?? project.designs[0],
    axes,
    sweep,
    accuracy,
    family && wish.level === 'solved',
  );
  const subjects = solved.subjects;
  const [state, setState] = useState<{ of: unknown; made?: Made; problem?: string }>();
  const key = JSON.stringify([
    chosen,
    family && axes,
    wish,
    family && wish.level === 'solved' && solved.left,
  ]);
  useEffect(() => {
    if (!design) return;
    const abort = new AbortController();
    const make = async (): Promise<Made | undefined> => {
      if (!family) return { kind: 'file', file: await dataFile(project, design, wish) };
      const from = wish.level === 'solved' ? subjects : wish.level;
      if (from === undefined) return undefined;
      if (wish.level === 'solved' && solved.left > 0)
        throw new Error(
          `${solved.left} members have not been solved; the family\u2019s study solves them, one after the other`,
        );
      const names = axes.map((a) => a.key.replace(/^\w+:/, '').replaceAll(':', '.'));
      const { file, format, parameter } = wish;
      const zipped = await run(
        'familyFiles',
        { project, design, axes, from, wish: { file, format, parameter }, names },
        { signal: abort.signal },
      );
      if ('problem' in zipped) throw new Error(zipped.problem);
      return {
        kind: 'zip',
        name: `${fileName(design.name)}-family.zip`,
        bytes: zipped.value,
      };
    };
    make().then(
      (made) => !abort.signal.aborted && made && setState({ of: key, made }),
      (error: unknown) =>
        !abort.signal.aborted &&
        setState({ of: key, problem: error instanceof Error ? error.message : String(error) }),
    );
    return () => abort.abort();
    // The key says all of the wish; what was solved comes along with it.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key, project, subjects]);
  const now = state?.of === key ? state : undefined;
  const made = now?.made;
  const save = () => {
    if (made?.kind === 'file') download(made.file.name, made.file.text, made.file.type);
    else if (made) download(made.name, new Blob([Uint8Array.from(made.bytes)], { type: 'application/zip' }));
    onClose();
  };
  const told = (): string => {
    if (!design) return 'There is no design.';
    if (now?.problem) return `It cannot be written: ${now.problem}.`;
    if (!made) return 'Working it out\u2026';
    const numbers = numberFormats.find((n) => n.id === wish.format)!.note;
    const parameter = wish.parameter.toUpperCase();
    if (made.kind === 'zip')
      return `${made.name}, ${size(made.bytes.length)}: a file of each member over ${axes.map((a) => a.key.replace(/^\w+:/, '').replaceAll(':', ', ')).join(' and ')}, ${parameter} as ${numbers}, and an index of them.`;
    const { file } = made;
    const { freq, ports, z0 } = file.data;
    const as = responseFormats.find((f) => f.id === (file.instead ?? wish.file))!.label;
    const same = z0.every((z) => z.re === z0[0].re && z.im === z0[0].im);
    return `${file.name}, ${size(file.text.length)}: ${parameter} of ${ports} ${ports === 1 ? 'port' : 'ports'} as ${numbers}, ${freq.length} frequencies from ${formatQuantity(freq[0], 'frequency')} to ${formatQuantity(freq[freq.length - 1], 'frequency')}, ${as}${
      same ? `, reference ${formatQuantity(z0[0].re, 'impedance')}` : ', a reference for each port'
    }.${file.instead ? ' The first version knows one reference for all ports.' : ''}`;
  };
  return (
    <Dialog title="Data of a response" open onClose={onClose}>
      <Rows>
        <span>Design</span>
        <Select
          label="design whose data is written"
          value={chosen ?? ''}
          choices={project.designs.map((d) => ({ id: d.id, label: d.name }))}
          onChange={setChosen}
        />
        <span>What</span>
        <Segments
          label="the response or its family"
          value={family ? 'family' : 'one'}
          choices={[
            { id: 'one', label: 'its response' },
            ...(axes.length > 0 ? [{ id: 'family', label: 'its family, a file a member' }] : []),
          ]}
          onChange={setWhole}
        />
        <span>Level</span>
        <Segments
          label="level whose data is written"
          value={wish.level}
          choices={levels.map((l) => ({ id: l.id, label: l.name }))}
          onChange={(level) => change({ level: level as LevelId })}
        />
        <span>Parameters</span>
        <Segments
          label="parameters"
          value={wish.parameter}
          choices={PARAMETERS}
          onChange={(parameter) => change({ parameter: parameter as DataWish['parameter'] })}
        />
        <span>File</span>
        <Segments
          label="file format"
          value={wish.file}
          choices={responseFormats}
          onChange={(file) => change({ file: file as ResponseFormat })}
        />
        <span>Numbers</span>
        <Segments
          label="how numbers are written"
          value={wish.format}
          choices={numberFormats.map((n) => ({ id: n.id, label: n.note }))}
          onChange={(format) => change({ format: format as NumberFormat })}
        />
      </Rows>
      <Told role="status">{now?.problem ? told() : <Quiet>{told()}</Quiet>}</Told>
      <div style={{ display: 'flex', gap: 8 }}>
        <PrimaryButton isDisabled={!made} onPress={save}>
          Write the file
        </PrimaryButton>
        <Button onPress={onClose}>Cancel</Button>
      </div>
    </Dialog>
  );
}
