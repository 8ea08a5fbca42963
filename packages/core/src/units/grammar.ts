import { parse } from './generated/grammar';

/** An expression as it was read, before anybody asks what its names are. */
export type Node =
  | { readonly kind: 'number'; readonly value: number }
  | { readonly kind: 'name'; readonly name: string }
  | { readonly kind: 'call'; readonly name: string; readonly args: readonly Node[] }
  | { readonly kind: 'group' | 'percentage'; readonly of: Node }
  | { readonly kind: 'sign'; readonly op: '+' | '-'; readonly of: Node }
  | {
      readonly kind: 'operation';
      readonly op: '+' | '-' | '*' | '/' | '^';
      readonly left: Node;
      readonly right: Node;
    };

/**
 * Reads an expression by the grammar beside this file.
 * @throws SyntaxError where it ends too early or something does not belong there
 */
export const readNode = (text: string): Node => parse(text);
