import { useEffect, useRef } from 'react';
import { isRouteErrorResponse, Link, useNavigate, useRouteError } from 'react-router';
import styled from 'styled-components';
import { Button, PrimaryButton } from '../controls/basics';
import { exportProject } from '../store/library';
import { undo, useSession } from '../store/session';
import { Empty } from './Empty';

const Ways = styled.span`
  display: flex;
  flex-wrap: wrap;
  justify-content: center;
  gap: 8px;
  margin-top: 14px;
`;

/**
 * A view that failed does not take the work with it: everything is stored as it is made. What made it fail may be in the
 * project and would fail again, so the state before it is offered, and the file.
 */
export function Failed() {
  const error = useRouteError();
  const navigate = useNavigate();
  const project = useSession((s) => s.project);
  const last = useSession((s) => s.past.at(-1)?.label);
  const shown = useRef(project);
  // Another state of the project deserves another try.
  useEffect(() => {
    if (project && project !== shown.current) void navigate(window.location.pathname, { replace: true });
  }, [project, navigate]);
  if (isRouteErrorResponse(error) && error.status === 404)
    return (
      <Empty title="There is no such page">
        <Link to="/projects">Back to the projects</Link>
      </Empty>
    );
  return (
    <Empty title="This page failed">
      {error instanceof Error ? error.message : String(error)}. Your work is stored
      {project && ', and can be carried away as a file'}.
      <Ways>
        {project && last !== undefined && <PrimaryButton onPress={undo}>Take back: {last}</PrimaryButton>}
        {project && <Button onPress={() => void exportProject(project)}>Export the project file</Button>}
        <Button onPress={() => void navigate(0)}>Try again</Button>
        <Button onPress={() => window.location.assign('/projects')}>All projects</Button>
      </Ways>
    </Empty>
  );
}
