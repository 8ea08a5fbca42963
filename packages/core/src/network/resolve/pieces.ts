import type { Complex } from '../../numeric';
import { parts, propertiesOf, type PartValues, type ResolveContext } from '../../parts';
import type { SData } from '../../results';
import { checkQuantity, parseExpression, QuantityError, type Scope } from '../../units';
import type { Piece } from '../document';
import { metres } from '../arguments';
import type { Place, Problems } from './contract';
import type { Values } from './values';

/** Reads the held faces of a piece; undefined where one is wrong. */
export function readHeld(
  piece: Piece,
  { scope, has }: Values,
  data: (id: string) => SData | undefined,
  contextOf: (piece: Piece) => ResolveContext | undefined,
  problems: Problems,
): { held: string[]; read?: PartValues } {
  const definition = parts.get(piece.kind);
  const settings = piece.settings ?? {};
  const at = (face: string): Place => ({ kind: 'piece', piece: piece.id, face });
  if (!definition) {
    problems.say(at(''), `there is no part of kind "${piece.kind}"`);
    return { held: [] };
  }
  if (settings.data && !data(settings.data)) problems.say(at('data'), 'its data is not in the project');
  else if (definition.asks === 'data' && !settings.data)
    problems.say(at('data'), 'it has no data; import a Touchstone file and grow a block of it in its place');
  for (const choice of definition.choices ?? []) {
    const chosen = settings[choice.name];
    if (chosen !== undefined && !choice.options.some((o) => o.id === chosen))
      problems.say(
        at(choice.name),
        `${choice.label.toLowerCase()} must be one of ${choice.options.map((o) => o.label).join(', ')}`,
      );
  }
  const count = definition.pins(settings, data);
  if (piece.nodes.length !== count) {
    problems.say(at(''), `needs ${count} pins, not ${piece.nodes.length}`);
    return { held: [] };
  }
  const held: string[] = [];
  const read: Record<string, Complex> = {};
  let sound = true;
  const fail = (face: string, error: unknown) => {
    problems.take(at(face), error);
    sound = false;
  };
  for (const property of propertiesOf(definition, settings)) {
    const faces = property.faces.filter((f) => piece.held[f.name] !== undefined);
    if (faces.length === 0) {
      if (property.otherwise === undefined)
        fail(
          property.faces[0].name,
          new QuantityError(`needs ${property.faces.map((f) => f.label.toLowerCase()).join(' or ')}`),
        );
      continue;
    }
    if (faces.length > 1) {
      fail(faces[1].name, new QuantityError(`${faces[0].label} and ${faces[1].label} cannot both be held`));
      continue;
    }
    const face = faces[0];
    held.push(face.name);
    try {
      const expression = parseExpression(piece.held[face.name]);
      const local: Scope = {
        ...scope,
        value: (name) => {
          if (definition.local && !has(name)) {
            const context = contextOf(piece);
            const found = context && definition.local(name, read, context);
            if (found !== undefined) return metres(found);
          }
          return scope.value?.(name);
        },
      };
      const quantity = checkQuantity(expression.evaluate(local), face.rule);
      read[face.name] = { re: quantity.re, im: quantity.im };
    } catch (error) {
      fail(face.name, error);
    }
  }
  return sound ? { held, read } : { held };
}
