import { QueryClientProvider, useQuery } from '@tanstack/react-query';
import { memo, useMemo, useState } from 'react';
import { Link } from 'react-router';
import styled from 'styled-components';
import type { Project } from '@ditch/core/network';
import { recipeGoals, recipes, type Recipe } from '@ditch/core/recipes';
import { Quiet } from '../../controls/basics';
import { finder, SearchBox } from '../../controls/SearchBox';
import { run } from '../../bridge/bridge';
import { queryClient } from '../../queryClient';
import { colour } from '../../theme';
import { LayoutPicture } from '../design/Picture';
import { useProject } from '../hooks';

const Page = styled.div`
  max-width: 1160px;
  margin: 0 auto;
  padding: 20px 24px;
  h1 {
    font-size: 18px;
  }
`;
const Head = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) 280px;
  align-items: end;
  gap: 24px;
`;
const Group = styled.section`
  margin-top: 18px;
  h2 {
    font-size: 14px;
  }
`;
const List = styled.ul`
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(250px, 1fr));
  gap: 12px;
  margin-top: 8px;
  a {
    display: grid;
    grid-template-rows: 112px auto;
    height: 100%;
    border: 1px solid ${colour('rule')};
    background: ${colour('raised')};
    color: inherit;
    text-decoration: none;
  }
  a:hover {
    border-color: ${colour('water')};
  }
  div {
    min-height: 0;
  }
  p {
    padding: 7px 12px 10px;
    font-size: 12px;
  }
  b {
    display: block;
    font-size: 13px;
  }
`;

let last: Promise<unknown> = Promise.resolve();
/** Pictures are made one after the other, so that what the next page asks for never waits for all of them. */
function oneByOne<T>(work: () => Promise<T>, signal: AbortSignal): Promise<T> {
  const own = last.then(() => {
    signal.throwIfAborted();
    return work();
  });
  last = own.catch(() => undefined);
  return own;
}

const Card = memo(function Card({
  recipe,
  project,
  base,
}: {
  recipe: Recipe;
  project: Project;
  base: string;
}) {
  const { stacks, line } = project;
  // The board and the line sheet are all that the picture is made from.
  const request = useMemo(() => {
    const stack = stacks.find((s) => s.id === line.stack);
    return (
      stack && {
        project: { ...project, designs: [], data: [], checkpoints: [] },
        recipe: recipe.id,
        stack,
        medium: line.medium,
        freq: line.freq,
      }
    );
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [recipe, stacks, line]);
  const { data: layout } = useQuery({
    queryKey: ['preview', request],
    enabled: request !== undefined,
    queryFn: ({ signal }) => oneByOne(() => run('preview', request!), signal),
  });
  return (
    <li>
      <Link to={`${base}/${recipe.id}`}>
        <div>{layout && <LayoutPicture layout={layout} />}</div>
        <p>
          <b>{recipe.name}</b>
          <Quiet>{recipe.about}</Quiet>
        </p>
      </Link>
    </li>
  );
});

const words = (recipe: Recipe): string =>
  [recipe.name, recipe.about, recipe.source, recipeGoals.find((g) => g.id === recipe.goal)!.label]
    .join(' ')
    .toLowerCase();

/** Recipes by their goals, each with its copper on the project's board; only those that a search leaves. */
export function RecipeGroups({ project, search = '' }: { project: Project; search?: string }) {
  const isFound = finder(search);
  const left = [...recipes.values()].filter((r) => isFound(words(r)));
  if (left.length === 0)
    return (
      <p style={{ marginTop: 24 }}>
        <Quiet>No recipe says “{search}”. An empty design is grown by hand, pin by pin.</Quiet>
      </p>
    );
  const groups = recipeGoals.map(({ id, label, about }) => {
    const own = left.filter((r) => r.goal === id);
    if (own.length === 0) return null;
    return (
      <Group key={id} aria-label={label}>
        <h2>
          {label} <Quiet style={{ fontWeight: 400 }}>{about}</Quiet>
          {id === 'filter' && (
            <>
              {' '}
              <Link to={`/p/${project.id}/filter`}>from a specification</Link>
            </>
          )}
        </h2>
        <List>
          {own.map((recipe) => (
            <Card key={recipe.id} recipe={recipe} project={project} base={`/p/${project.id}/recipes`} />
          ))}
        </List>
      </Group>
    );
  });
  return <QueryClientProvider client={queryClient}>{groups}</QueryClientProvider>;
}

/** All recipes, to be found by goal or by typing. */
export default function RecipesView() {
  const project = useProject();
  const [search, setSearch] = useState('');
  return (
    <Page>
      <Head>
        <div>
          <h1>Recipes</h1>
          <Quiet>A goal goes in, a design comes out, with the theory it follows from.</Quiet>
        </div>
        <SearchBox
          label="search the recipes"
          placeholder="search: stub, equal ripple, Wilkinson …"
          value={search}
          onChange={setSearch}
        />
      </Head>
      <RecipeGroups project={project} search={search} />
    </Page>
  );
}
