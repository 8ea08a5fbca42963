import { lazy, memo, Suspense, useEffect, useRef, useState } from 'react';
import { Link, NavLink, Navigate, Outlet, useLocation, useMatch, useParams } from 'react-router';
import { showLengthsIn } from '@ditch/core/units';
import styled from 'styled-components';
import { useWork, whenWorkerLost } from '../bridge/bridge';
import { QuietButton, TextButton } from '../controls/basics';
import { Menu } from '../controls/Menu';
import { askHelp, closeHelp, useHelpBeside } from '../controls/help';
import { useUpdate } from '../offline';
import { useStart } from '../store/library';
import { addCheckpoint, openProject, redo, rescue, retrySave, say, undo, useSession } from '../store/session';
import { colour } from '../theme';
import { Empty } from './Empty';
import { exportOpen, FileMenu } from './FileMenu';
import { setPreferences, usePreferences, type Theme } from './hooks';

const HelpText = lazy(() => import('./HelpView').then((m) => ({ default: m.HelpText })));

const Frame = styled.div`
  display: grid;
  grid-template-rows: 44px auto minmax(0, 1fr);
  height: 100%;
  @media print {
    display: block;
    height: auto;
  }
`;
const Bar = styled.header`
  display: flex;
  align-items: center;
  gap: 6px;
  padding: 0 8px 0 14px;
  border-bottom: 1px solid ${colour('rule')};
  background: ${colour('raised')};
  min-width: 0;
  @media print {
    display: none;
  }
  @media (max-width: 1120px) {
    gap: 0;
    > button {
      padding: 0 6px;
    }
  }
`;
const Brand = styled(Link)`
  display: inline-flex;
  align-items: center;
  gap: 8px;
  margin-right: 10px;
  color: ${colour('ink')};
  font-size: 15px;
  font-weight: 700;
  text-decoration: none;
`;
const Crumb = styled.span`
  flex: 0 1 auto;
  display: flex;
  gap: 6px;
  min-width: 0;
  margin-right: 14px;
  overflow: hidden;
  white-space: nowrap;
  a {
    flex: 0 4 auto;
    min-width: 60px;
    overflow: hidden;
    color: ${colour('ink')};
    font-weight: 600;
    text-decoration: none;
    text-overflow: ellipsis;
  }
  @media (max-width: 1120px) {
    margin-right: 4px;
  }
  h1 {
    min-width: 0;
    overflow: hidden;
    font-size: 13px;
    font-weight: 400;
    text-overflow: ellipsis;
    color: ${colour('quiet')};
  }
`;
/** The way past the bar, for those who come by keyboard. */
const Skip = styled.a`
  position: absolute;
  top: -60px;
  left: 8px;
  z-index: 30;
  padding: 8px 14px;
  border: 1px solid ${colour('rule')};
  border-radius: 5px;
  background: ${colour('raised')};
  &:focus {
    top: 6px;
  }
`;
const Nav = styled.nav`
  display: flex;
  gap: 2px;
  @media (max-width: 1120px) {
    gap: 0;
    a {
      padding: 4px 7px !important;
    }
  }
  a {
    padding: 4px 12px;
    border-radius: 5px;
    color: ${colour('ink')};
    text-decoration: none;
  }
  a:hover {
    background: ${colour('page')};
  }
  a.active {
    background: ${colour('chosen')};
    font-weight: 600;
  }
`;
const Saved = styled.span`
  color: ${colour('quiet')};
  font-size: 12px;
  white-space: nowrap;
  padding: 0 6px;
`;
const Notice = styled.div<{ $grave?: boolean }>`
  display: flex;
  gap: 16px;
  padding: 7px 16px;
  border-bottom: 1px solid ${colour('rule')};
  background: ${colour('laminate')};
  border-left: 4px solid ${({ $grave }) => ($grave ? colour('error') : colour('caution'))};
`;
const Main = styled.main`
  min-height: 0;
  min-width: 0;
  overflow: auto;
  @media print {
    overflow: visible;
  }
`;

const Mark = () => (
  <svg width="20" height="20" viewBox="0 0 32 32" aria-hidden="true">
    <rect x="7" y="14" width="18" height="8" fill={colour('water')} />
    <path
      d="M3 9v12a6 6 0 0 0 6 6h14a6 6 0 0 0 6-6V9h-5v10a3 3 0 0 1-3 3H11a3 3 0 0 1-3-3V9z"
      fill={colour('copper')}
    />
  </svg>
);

/** "saved 2 s ago", kept true. */
function SaveState() {
  const save = useSession((s) => s.save);
  const [now, setNow] = useState(() => performance.now());
  useEffect(() => {
    const timer = setInterval(() => setNow(performance.now()), 5000);
    return () => clearInterval(timer);
  }, []);
  if (save.kind === 'failed') return <Saved style={{ color: colour('error') }}>not saved</Saved>;
  if (save.kind === 'saving') return <Saved>saving…</Saved>;
  const seconds = Math.max(0, Math.round((now - save.at) / 1000));
  return (
    <Saved>
      {seconds < 10
        ? 'saved'
        : seconds < 90
          ? `saved ${seconds} s ago`
          : `saved ${Math.round(seconds / 60)} min ago`}
    </Saved>
  );
}

/** How this browser shows things; not part of any project. */
const LookMenu = memo(function LookMenu() {
  const theme = usePreferences((p) => p.theme);
  const lengths = usePreferences((p) => p.lengths);
  const looks: readonly (readonly [Theme, string])[] = [
    ['system', 'As the system has it'],
    ['light', 'Light'],
    ['dark', 'Dark'],
  ];
  return (
    <Menu
      label="Look ▾"
      commands={() => [
        ...looks.map(([id, label]) => ({
          id,
          group: 'Colours',
          label,
          note: id === theme ? 'now' : undefined,
          run: () => setPreferences({ theme: id }),
        })),
        ...(['mm', 'mil'] as const).map((unit) => ({
          id: unit,
          group: 'Lengths',
          label: unit === 'mm' ? 'Millimetres' : 'Mil',
          note: unit === lengths ? 'now' : undefined,
          run: () => setPreferences({ lengths: unit }),
        })),
      ]}
    />
  );
});

/** Undo and redo, each telling what it takes back or brings again. */
function History() {
  const last = useSession((s) => s.past.at(-1)?.label);
  const next = useSession((s) => s.future.at(-1)?.label);
  return (
    <>
      <QuietButton
        isDisabled={last === undefined}
        onPress={undo}
        aria-label={last ? `Undo: ${last}` : 'Undo'}
      >
        undo
      </QuietButton>
      <QuietButton
        isDisabled={next === undefined}
        onPress={redo}
        aria-label={next ? `Redo: ${next}` : 'Redo'}
      >
        redo
      </QuietButton>
    </>
  );
}

/** A newer version, which is taken when it is wished for and nothing is under way that would be lost. */
function Update({ take }: { take: () => void }) {
  const busy = useWork((w) => w.under > 0);
  const [wished, setWished] = useState(false);
  useEffect(() => {
    if (wished && !busy) take();
  }, [wished, busy, take]);
  return (
    <Notice role="status">
      {busy
        ? 'A newer Ditch is ready. It waits until the work under way has ended.'
        : 'A newer Ditch is ready. Everything is stored before it is taken.'}
      <TextButton isDisabled={wished} onPress={() => setWished(true)}>
        {wished ? 'it is taken then' : busy ? 'Take it then' : 'Take it now'}
      </TextButton>
    </Notice>
  );
}

/** What has no field of its own to be said at. */
function Notices() {
  const notice = useSession((s) => s.notice);
  const failure = useSession((s) => (s.save.kind === 'failed' ? s.save.message : undefined));
  const isOpen = useSession((s) => s.project !== null);
  const update = useUpdate((u) => u.take);
  return (
    <div>
      {update && <Update take={update} />}
      {failure && (
        <Notice role="alert" $grave>
          {failure}
          {isOpen && <TextButton onPress={exportOpen}>Export now</TextButton>}
          <TextButton onPress={retrySave}>Try again</TextButton>
        </Notice>
      )}
      {notice && (
        <Notice role="status">
          {notice}
          <TextButton onPress={() => say(null)}>Dismiss</TextButton>
        </Notice>
      )}
    </div>
  );
}

/** The frame around every view. It reads names and ids only, so that editing values leaves it alone. */
export function Shell() {
  const theme = usePreferences((p) => p.theme);
  const inProject = useMatch('/p/:projectId/*') !== null;
  const designId = useMatch('/p/:projectId/design/:designId/*')?.params.designId;
  const [lastDesign, setLastDesign] = useState<string>();
  if (designId && designId !== lastDesign) setLastDesign(designId);
  const wanted = designId ?? lastDesign;
  const projectId = useSession((s) => (inProject ? s.project?.id : undefined));
  const projectName = useSession((s) => (inProject ? s.project?.name : undefined));
  const designName = useSession((s) =>
    inProject ? s.project?.designs.find((d) => d.id === designId)?.name : undefined,
  );
  const target = useSession(
    (s) => (s.project?.designs.find((d) => d.id === wanted) ?? s.project?.designs[0])?.id,
  );

  useEffect(() => {
    if (theme === 'system') document.documentElement.removeAttribute('data-theme');
    else document.documentElement.dataset.theme = theme;
  }, [theme]);
  useEffect(() => {
    document.title = [designName, projectName, 'Ditch'].filter(Boolean).join(' \u00B7 ');
  }, [designName, projectName]);
  useEffect(() => {
    whenWorkerLost(say);
    const leave = () => rescue();
    const onKey = (event: KeyboardEvent) => {
      if (event.key === 'F1') {
        event.preventDefault();
        askHelp();
        return;
      }
      if (!(event.ctrlKey || event.metaKey) || event.altKey) return;
      const key = event.key.toLowerCase();
      const act =
        key === 'z' && !event.shiftKey
          ? undo
          : key === 'y' || (key === 'z' && event.shiftKey)
            ? redo
            : key === 'e'
              ? exportOpen
              : undefined;
      if (!act) return;
      event.preventDefault();
      act();
    };
    window.addEventListener('pagehide', leave);
    window.addEventListener('keydown', onKey);
    return () => {
      window.removeEventListener('pagehide', leave);
      window.removeEventListener('keydown', onKey);
    };
  }, []);

  // Where the address asks for it, as after a design was made, the focus goes to the heading.
  const content = useRef<HTMLElement>(null);
  const heading = useRef<HTMLHeadingElement>(null);
  const location = useLocation();
  const { key } = location;
  const fresh = (location.state as { fresh?: boolean } | null)?.fresh === true;
  useEffect(() => {
    if (fresh) heading.current?.focus();
  }, [fresh, key, designName]);

  const wish = useSession((s) => (inProject ? s.project?.display?.lengths : undefined));
  const preferred = usePreferences((p) => p.lengths);
  const lengths = wish ?? preferred;
  // Before anything is drawn: the frame is drawn anew when the unit changes.
  showLengthsIn(lengths);

  const base = `/p/${projectId}`;
  return (
    <Frame key={lengths}>
      <Skip
        href="#content"
        onClick={(event) => {
          event.preventDefault();
          content.current?.focus();
        }}
      >
        Skip to the content
      </Skip>
      <Bar>
        <Brand to="/projects" aria-label="Ditch, all projects">
          <Mark /> Ditch
        </Brand>
        {projectId && (
          <>
            <Crumb>
              <Link to={base}>{projectName}</Link>
              {designName !== undefined && (
                <h1 ref={heading} tabIndex={-1} title={designName}>
                  / {designName}
                </h1>
              )}
            </Crumb>
            <Nav aria-label="Views">
              <NavLink to={`${base}/lines`}>Lines</NavLink>
              <NavLink to={`${base}/recipes`}>Recipes</NavLink>
              {target && (
                <>
                  <NavLink to={`${base}/design/${target}`} end>
                    Design
                  </NavLink>
                  <NavLink to={`${base}/design/${target}/studies`}>Studies</NavLink>
                </>
              )}
              <NavLink to={`${base}/making`}>Making</NavLink>
              <NavLink to={base} end>
                Project
              </NavLink>
            </Nav>
          </>
        )}
        <span style={{ flex: 1 }} />
        {projectId && (
          <>
            <History />
            <CheckpointButton />
            <SaveState />
          </>
        )}
        {projectId !== undefined && <FileMenu designId={designId} base={base} />}
        <LookMenu />
        <Nav aria-label="Help">
          <NavLink to="/help">Help</NavLink>
        </Nav>
      </Bar>
      <Notices />
      <HelpBeside />
      <Main id="content" ref={content} tabIndex={-1} style={{ outline: 'none' }}>
        <Suspense fallback={<Empty title="Loading…" />}>
          <Outlet />
        </Suspense>
      </Main>
    </Frame>
  );
}

const Beside = styled.aside`
  position: fixed;
  z-index: 15;
  top: 44px;
  right: 0;
  bottom: 0;
  display: grid;
  grid-template-rows: auto minmax(0, 1fr);
  width: min(440px, 92vw);
  border-left: 1px solid ${colour('rule')};
  background: ${colour('raised')};
  box-shadow: -6px 0 24px rgb(0 0 0 / 10%);
  > header {
    display: flex;
    justify-content: space-between;
    align-items: center;
    padding: 4px 6px 0 16px;
  }
`;

/** The help beside the work, at what it was asked about. */
function HelpBeside() {
  const asked = useHelpBeside((h) => h.asked);
  const panel = useRef<HTMLElement>(null);
  const before = useRef<Element | null>(null);
  const open = asked !== undefined;
  useEffect(() => {
    if (!open) return;
    before.current = document.activeElement;
    panel.current?.querySelector<HTMLElement>('button')?.focus();
    return () => (before.current as HTMLElement | null)?.focus?.();
  }, [open]);
  if (asked === undefined) return null;
  return (
    <Beside
      ref={panel}
      aria-label="Help beside the work"
      onKeyDown={(event) => event.key === 'Escape' && closeHelp()}
    >
      <header>
        <b>Help</b>
        <QuietButton onPress={closeHelp}>close</QuietButton>
      </header>
      <Suspense fallback={<Empty title="Loading…" />}>
        <HelpText asked={asked === '' ? undefined : asked} beside />
      </Suspense>
    </Beside>
  );
}

function CheckpointButton() {
  const [kept, setKept] = useState(false);
  const keep = () =>
    addCheckpoint(`Checkpoint of ${new Date().toLocaleString()}`).then(
      () => {
        setKept(true);
        setTimeout(() => setKept(false), 2000);
      },
      () => say('The checkpoint could not be stored. Export the project file to keep this state.'),
    );
  return <QuietButton onPress={() => void keep()}>{kept ? 'kept' : 'checkpoint'}</QuietButton>;
}

/** The pages of one project: opens it, and says when it is not there. */
export function ProjectFrame() {
  const { projectId = '' } = useParams();
  const status = useSession((s) => s.status);
  const openId = useSession((s) => s.project?.id);
  useEffect(() => {
    void openProject(projectId);
  }, [projectId]);
  if (status === 'missing')
    return (
      <Empty title="This project is not in this browser">
        Projects live in the browser that made them. Import its file, or{' '}
        <Link to="/projects">choose another</Link>.
      </Empty>
    );
  if (status !== 'open' || openId !== projectId) return <Empty title="Opening the project…" />;
  return <Outlet />;
}

/** The bare address: on to the last project. */
export function Start() {
  const start = useStart();
  if (start.data)
    return (
      <Navigate
        replace
        to={start.data.design ? `/p/${start.data.id}/design/${start.data.design}` : `/p/${start.data.id}`}
      />
    );
  if (start.error) return <Empty title="Ditch could not start">{start.error.message}</Empty>;
  return <Empty title="Opening…" />;
}
