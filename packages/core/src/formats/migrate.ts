import type { Project } from '../network';

type Json = unknown;
type Entries = Readonly<Record<string, Json>>;

const isObject = (x: Json): x is Entries => typeof x === 'object' && x !== null && !Array.isArray(x);

/** The object with a member changed where it is a list of objects; anything else stays for the schema to refuse. */
const eachOf = (owner: Entries, member: string, change: (one: Entries) => Entries): Entries => {
  const list = owner[member];
  return Array.isArray(list)
    ? { ...owner, [member]: list.map((x: Json) => (isObject(x) ? change(x) : x)) }
    : owner;
};

const ASKED = 'asked_';

/** Version 1 kept what is said about a piece among its settings. */
function withMarks(piece: Entries): Entries {
  if (!isObject(piece.settings)) return piece;
  const marks: Record<string, Json> = {};
  const asked: Record<string, Json> = {};
  const chosen: Record<string, Json> = {};
  for (const [name, value] of Object.entries(piece.settings)) {
    if (name.startsWith(ASKED)) asked[name.slice(ASKED.length)] = value;
    else if (name === 'theory' || name === 'heldAt') marks[name] = value;
    else if (name === 'reference') {
      if (value === 'own') marks.reference = value;
    } else if (name === 'retune') marks.retune = value === 'stay' ? 'stay' : 'move';
    else chosen[name] = value;
  }
  if (Object.keys(asked).length > 0) marks.asked = asked;
  return Object.fromEntries(
    Object.entries(piece).flatMap(([name, value]): [string, Json][] =>
      name !== 'settings'
        ? [[name, value]]
        : [
            ...(Object.keys(chosen).length > 0 ? [['settings', chosen] as [string, Json]] : []),
            ...(Object.keys(marks).length > 0 ? [['marks', marks] as [string, Json]] : []),
          ],
    ),
  );
}

/** What leads from each version to the next one. */
const steps: Readonly<Record<number, (project: Entries) => Entries>> = {
  1: (project) => ({
    ...eachOf(project, 'designs', (design) =>
      eachOf(eachOf(design, 'pieces', withMarks), 'attempts', (attempt) =>
        eachOf(attempt, 'pieces', withMarks),
      ),
    ),
    version: 2,
  }),
};

/** A project of any earlier version as the present one has it; what is no such project is returned as it is. */
export function migrated(project: Json): Json {
  let at = project;
  while (isObject(at) && typeof at.version === 'number' && Object.hasOwn(steps, at.version))
    at = steps[at.version](at);
  return at;
}

/** The same for what this program stored itself. */
export const upToDate = (project: Project): Project => migrated(project) as Project;
