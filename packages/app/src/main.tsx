import '@fontsource-variable/inter/wght.css';
import { lazy, StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { createBrowserRouter, Link, RouterProvider } from 'react-router';
import { GlobalStyle } from './theme';
import DesignView from './views/design/DesignView';
import { loadMenu } from './controls/Menu';
import { openAhead } from './bridge/bridge';
import { keepOffline, whenAtRest } from './offline';
import { startAhead } from './store/library';
import { Empty } from './views/Empty';
import { Failed } from './views/Failed';
import { ProjectFrame, Shell, Start } from './views/Shell';

/** Views that the first page does not need: fetched when they are asked for, and ahead once the page is idle. */
const later = {
  lines: () => import('./views/lines/LinesView'),
  recipes: () => import('./views/recipes/RecipesView'),
  compare: () => import('./views/projects/CompareView'),
  recipe: () => import('./views/recipes/RecipeView'),
  filter: () => import('./views/filters/FilterView'),
  overview: () => import('./views/projects/OverviewView'),
  boards: () => import('./views/projects/BoardsView'),
  projects: () => import('./views/projects/ProjectsView'),
  help: () => import('./views/HelpView'),
};
const LinesView = lazy(later.lines);
const RecipesView = lazy(later.recipes);
const CompareView = lazy(later.compare);
const RecipeView = lazy(later.recipe);
const FilterView = lazy(later.filter);
const OverviewView = lazy(later.overview);
const BoardsView = lazy(later.boards);
const ProjectsView = lazy(later.projects);
const HelpView = lazy(later.help);

// What the first view waits for begins before the page is made.
openAhead();
if (location.pathname === '/') startAhead();

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
          // A view that fails leaves the frame, and with it undo and export.
          ...[
            { index: true as const, element: <OverviewView /> },
            { path: 'lines', element: <LinesView /> },
            { path: 'boards', element: <BoardsView /> },
            { path: 'recipes', element: <RecipesView /> },
            { path: 'recipes/:recipeId', element: <RecipeView /> },
            { path: 'filter', element: <FilterView /> },
            { path: 'compare/:checkpointId', element: <CompareView /> },
            { path: 'design/:designId', element: <DesignView /> },
          ].map((route) => ({ ...route, errorElement: <Failed /> })),
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

whenAtRest(() => {
  // With its server gone a page that is open must still lead everywhere.
  for (const fetchAhead of [loadMenu, ...Object.values(later)]) fetchAhead().catch(() => undefined);
  keepOffline().catch(() => undefined);
});
