import { Component, useEffect, useRef, type ReactNode } from 'react';
import { Link, useLocation } from 'react-router';
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

export const NoSuchPage = () => (
  <Empty title="There is no such page">
    <Link to="/projects">Back to the projects</Link>
  </Empty>
);

/**
 * A view that failed does not take the work with it: everything is stored as it is made. What made it fail may be in the
 * project and would fail again, so the state before it is offered, and the file.
 */
function Failed({ error, onRetry }: { error: unknown; onRetry: () => void }) {
  const project = useSession((s) => s.project);
  const last = useSession((s) => s.past.at(-1)?.label);
  const shown = useRef(project);
  // Another state of the project deserves another try.
  useEffect(() => {
    if (project && project !== shown.current) onRetry();
  }, [project, onRetry]);
  return (
    <Empty title="This page failed">
      {error instanceof Error ? error.message : String(error)}. Your work is stored
      {project && ', and can be carried away as a file'}.
      <Ways>
        {project && last !== undefined && <PrimaryButton onPress={undo}>Take back: {last}</PrimaryButton>}
        {project && <Button onPress={() => void exportProject(project)}>Export the project file</Button>}
        <Button onPress={() => window.location.reload()}>Try again</Button>
        <Button onPress={() => window.location.assign('/projects')}>All projects</Button>
      </Ways>
    </Empty>
  );
}

interface Caught {
  /** Where the page was when it failed. */
  readonly at: string;
  readonly failed?: { readonly error: unknown } | undefined;
}

class Boundary extends Component<{ readonly at: string; readonly children: ReactNode }, Caught> {
  override state: Caught = { at: this.props.at };
  static getDerivedStateFromError = (error: unknown): Pick<Caught, 'failed'> => ({ failed: { error } });
  /** Elsewhere is another try. */
  static getDerivedStateFromProps({ at }: { readonly at: string }, state: Caught): Caught | null {
    return at === state.at ? null : { at, failed: undefined };
  }
  private readonly retry = (): void => this.setState({ failed: undefined });
  override render(): ReactNode {
    const { failed } = this.state;
    return failed ? <Failed error={failed.error} onRetry={this.retry} /> : this.props.children;
  }
}

/** Keeps what is around it standing when what is inside of it fails. */
export function Guard({ children }: { readonly children: ReactNode }) {
  const { pathname } = useLocation();
  return <Boundary at={pathname}>{children}</Boundary>;
}
