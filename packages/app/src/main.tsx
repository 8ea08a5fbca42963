import '@fontsource-variable/inter/wght.css';
import { lazy, StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { createBrowserRouter, isRouteErrorResponse, Link, RouterProvider, useRouteError } from 'react-router';
import { GlobalStyle } from './theme';
import DesignView from './views/design/DesignView';
import { Empty } from './views/Empty';
import { ProjectFrame, Shell, Start } from './views/Shell';

const LinesView = lazy(() => import('./views/lines/LinesView'));
const RecipesView = lazy(() => import('./views/recipes/RecipesView'));
const CompareView = lazy(() => import('./views/projects/CompareView'));
const RecipeView = lazy(() => import('./views/recipes/RecipeView'));
const OverviewView = lazy(() => import('./views/projects/OverviewView'));
const ProjectsView = lazy(() => import('./views/projects/ProjectsView'));
const HelpView = lazy(() => import('./views/HelpView'));

/** A view that failed does not take the work with it: everything is stored as it is made. */
function Failed() {
  const error = useRouteError();
  const missing = isRouteErrorResponse(error) && error.status === 404;
  return (
    <Empty title={missing ? 'There is no such page' : 'This page failed'}>
      {!missing && <>{error instanceof Error ? error.message : String(error)}. Your work is stored. </>}
      <Link to="/projects" reloadDocument={!missing}>
        Back to the projects
      </Link>
    </Empty>
  );
}

const router = createBrowserRouter([
  {
    element: <Shell />,
    errorElement: <Failed />,
    children: [
      { index: true, element: <Start /> },
      { path: 'projects', element: <ProjectsView />, errorElement: <Failed /> },
      { path: 'help', element: <HelpView /> },
      {
        path: 'p/:projectId',
        element: <ProjectFrame />,
        errorElement: <Failed />,
        children: [
          { index: true, element: <OverviewView /> },
          { path: 'lines', element: <LinesView /> },
          { path: 'recipes', element: <RecipesView /> },
          { path: 'recipes/:recipeId', element: <RecipeView /> },
          { path: 'compare/:checkpointId', element: <CompareView /> },
          { path: 'design/:designId', element: <DesignView /> },
        ],
      },
      {
        path: '*',
        element: (
          <Empty title="There is no such page">
            <Link to="/projects">Back to the projects</Link>
          </Empty>
        ),
      },
    ],
  },
]);

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <GlobalStyle />
    <RouterProvider router={router} />
  </StrictMode>,
);
