import { lazy, memo, Suspense, useState } from 'react';
import { useNavigate } from 'react-router';
import { levels } from '@ditch/core/levels';
import type { Command } from '../controls/command';
import { Menu } from '../controls/Menu';
import { exportProject } from '../store/library';
import { useSession } from '../store/session';
import { boardFiles } from './boardFiles';

const ExportData = lazy(() => import('./ExportData'));

function exportWhole(whole: boolean): void {
  const { project } = useSession.getState();
  if (project) void exportProject(project, whole);
}
export const exportOpen = (): void => exportWhole(true);

/** What a design\u2019s response is exported as at once: every level, truest first. */
const exports = (designId: string): Command[] =>
  levels.toReversed().map((level) => ({
    id: `response-${level.id}`,
    group: 'Response',
    label: `Touchstone, ${level.name}`,
    note: 'S, real and imaginary',
    // The writers come when they are asked for.
    run: () => void import('./exportResponse').then((m) => m.exportResponse(designId, level.id)),
  }));

/** What a design's copper is exported as. */
const boardExports = (designId: string): Command[] =>
  boardFiles.map(({ id, label, note }) => ({
    id: `board-${id}`,
    group: 'Copper',
    label,
    note,
    run: () => void import('./exportBoard').then((m) => m.exportBoard({ design: designId }, id)),
  }));

export const FileMenu = memo(function FileMenu({
  designId,
  base,
}: {
  designId: string | undefined;
  base: string;
}) {
  const navigate = useNavigate();
  const [asked, setAsked] = useState(false);
  return (
    <>
      <Menu
        label="Export ▾"
        commands={() => [
          { id: 'project', group: 'Project', label: 'Project file', note: 'Ctrl E', run: exportOpen },
          {
            id: 'lean',
            group: 'Project',
            label: 'Project file without what was solved',
            run: () => exportWhole(false),
          },
          ...(designId
            ? [
                {
                  id: 'report',
                  group: 'Report',
                  label: 'Report to print or keep',
                  note: 'HTML, PDF',
                  run: () => void navigate(`${base}/design/${designId}/report`),
                },
                ...boardExports(designId),
                ...exports(designId),
              ]
            : []),
          {
            id: 'data',
            group: 'Response',
            label: 'Data of any response\u2026',
            note: 'S, Y, Z, families',
            run: () => setAsked(true),
          },
        ]}
      />
      {asked && (
        <Suspense>
          <ExportData designId={designId} onClose={() => setAsked(false)} />
        </Suspense>
      )}
    </>
  );
});
