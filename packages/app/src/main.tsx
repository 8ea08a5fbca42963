import '@fontsource-variable/inter/wght.css';
import { lazy, StrictMode, type ReactNode } from 'react';
import { createRoot } from 'react-dom/client';
import { BrowserRouter, Route, Routes } from 'react-router';
import { GlobalStyle } from './theme';
import DesignView from './views/design/DesignView';
import { loadMenu } from './controls/Menu';
import { openAhead } from './bridge/bridge';
import { keepOffline, whenAtRest } from './offline';
import { startAhead } from './store/library';
import { Guard, NoSuchPage } from './views/Failed';
import { ProjectFrame, Shell, Start } from './views/Shell';

/** Views that the first page does not need: fetched when they are asked for, and ahead once the page is idle. */
const later = {
  lines: () => import('./views/lines/LinesView'),
  recipes: () => import('./views/recipes/RecipesView'),
  compare: () => import('./views/projects/CompareView'),
  recipe: () => import('./views/recipes/RecipeView'),
  filter: () => import('./views/filters/FilterView'),
  studies: () => import('./views/studies/StudiesView'),
  report: () => import('./views/report/ReportView'),
  making: () => import('./views/making/MakingView'),
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
const StudiesView = lazy(later.studies);
const ReportView = lazy(later.report);
const MakingView = lazy(later.making);
const OverviewView = lazy(later.overview);
const BoardsView = lazy(later.boards);
const ProjectsView = lazy(later.projects);
const HelpView = lazy(later.help);

// What the first view waits for begins before the page is made.
openAhead();
if (location.pathname === '/') startAhead();

/** What fails leaves the frame around it, and with it undo and export. */
const guarded = (view: ReactNode) => <Guard>{view}</Guard>;

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <GlobalStyle />
    <BrowserRouter>
      <Guard>
        <Routes>
          <Route element={<Shell />}>
            <Route index element={<Start />} />
            <Route path="projects" element={guarded(<ProjectsView />)} />
            <Route path="help" element={guarded(<HelpView />)} />
            <Route path="p/:projectId" element={guarded(<ProjectFrame />)}>
              <Route index element={guarded(<OverviewView />)} />
              <Route path="lines" element={guarded(<LinesView />)} />
              <Route path="boards" element={guarded(<BoardsView />)} />
              <Route path="recipes" element={guarded(<RecipesView />)} />
              <Route path="recipes/:recipeId" element={guarded(<RecipeView />)} />
              <Route path="filter" element={guarded(<FilterView />)} />
              <Route path="making/:what?" element={guarded(<MakingView />)} />
              <Route path="compare/:checkpointId" element={guarded(<CompareView />)} />
              <Route path="design/:designId" element={guarded(<DesignView />)} />
              <Route path="design/:designId/report" element={guarded(<ReportView />)} />
              <Route path="design/:designId/studies/:study?" element={guarded(<StudiesView />)} />
            </Route>
            <Route path="*" element={<NoSuchPage />} />
          </Route>
        </Routes>
      </Guard>
    </BrowserRouter>
  </StrictMode>,
);

whenAtRest(() => {
  // With its server gone a page that is open must still lead everywhere.
  const ofPieces = () =>
    Promise.all([
      import('./views/design/Handles'),
      import('./views/design/Corners'),
      import('./views/design/Outline'),
    ]);
  for (const fetchAhead of [loadMenu, ofPieces, ...Object.values(later)]) fetchAhead().catch(() => undefined);
  keepOffline().catch(() => undefined);
});
