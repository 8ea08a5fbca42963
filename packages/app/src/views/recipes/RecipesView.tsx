import { useMemo } from 'react';
import { Link } from 'react-router';
import styled from 'styled-components';
import { resolveDesign, type Project } from '@ditch/core/network';
import { initialInputs, RecipeError, recipes, type Recipe } from '@ditch/core/recipes';
import { Quiet } from '../../controls/basics';
import { colour } from '../../theme';
import { Picture } from '../design/Picture';
import { useProject } from '../hooks';

const Page = styled.div`
  max-width: 1160px;
  margin: 0 auto;
  padding: 22px 24px;
  h1 {
    font-size: 18px;
  }
`;
const List = styled.ul`
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(300px, 1fr));
  gap: 14px;
  margin-top: 16px;
  a {
    display: grid;
    grid-template-rows: 150px auto;
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
    padding: 8px 12px 12px;
  }
  b {
    display: block;
  }
`;

function Card({ recipe, project }: { recipe: Recipe; project: Project }) {
  const resolved = useMemo(() => {
    const stack = project.stacks.find((s) => s.id === project.line.stack);
    if (!stack) return undefined;
    const context = {
      stack,
      medium: project.line.medium,
      newId: () => 'preview',
      data: [],
    };
    try {
      return resolveDesign(
        project,
        recipe.design({ ...initialInputs(recipe), freq: project.line.freq }, context),
      );
    } catch (error) {
      // The project's own frequency may not be one; the recipe itself will say so.
      if (error instanceof RecipeError) return undefined;
      throw error;
    }
  }, [recipe, project]);
  return (
    <li>
      <Link to={recipe.id}>
        <div>{resolved && <Picture resolved={resolved} />}</div>
        <p>
          <b>{recipe.name}</b>
          <Quiet>{recipe.about}</Quiet>
        </p>
      </Link>
    </li>
  );
}

/** All recipes, each with its copper on the project's board. */
export default function RecipesView() {
  const project = useProject();
  return (
    <Page>
      <h1>Recipes</h1>
      <Quiet>A goal goes in, a design comes out, with the theory it follows from.</Quiet>
      <List>
        {[...recipes.values()].map((recipe) => (
          <Card key={recipe.id} recipe={recipe} project={project} />
        ))}
      </List>
    </Page>
  );
}
