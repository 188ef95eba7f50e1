import { parser } from '@lezer/javascript';

const typescript = parser.configure({ dialect: 'ts jsx' });
type Tree = ReturnType<typeof typescript.parse>;
type Node = Tree['topNode'];

/** Trees of texts that were asked about lately: one exception after another comes from the same few files. */
const known = new Map<string, Tree>();
const MAX_KNOWN = 30;

/**
 * Name of the innermost function around a place in a text of JavaScript or TypeScript, as an engine names it (ECMA-262, NamedEvaluation): of a method the method's, of an anonymous function that is assigned the
 * variable's or the property's. '' for one without a name, and outside all.
 * @param line from 1 @param column from 0
 */
export function enclosingFunction(text: string, line: number, column: number): string {
  const at = offsetOf(text, line, column);
  for (let node: Node | null = treeOf(text).resolveInner(at, 1); node; node = node.parent)
    if (FUNCTIONS.has(node.name)) return nameOf(node, text);
  return '';
}

const FUNCTIONS = new Set([
  'FunctionDeclaration',
  'FunctionExpression',
  'ArrowFunction',
  'MethodDeclaration'
]);

function treeOf(text: string): Tree {
  let tree = known.get(text);
  if (!tree) {
    tree = typescript.parse(text);
    if (known.size >= MAX_KNOWN) known.delete(known.keys().next().value!);
    known.set(text, tree);
  }
  return tree;
}

function nameOf(node: Node, text: string): string {
  const textOf = (named: Node | null): string => (named ? text.slice(named.from, named.to) : '');
  const own =
    node.getChild('VariableDefinition') ??
    node.getChild('PropertyDefinition') ??
    node.getChild('PrivatePropertyDefinition');
  const name = textOf(own);
  if (node.name === 'MethodDeclaration' && name === 'constructor') return textOf(classOf(node));
  if (name !== '' || node.name === 'FunctionDeclaration' || node.name === 'MethodDeclaration') return name;
  const holder = node.parent;
  if (holder?.name === 'VariableDeclaration')
    return textOf(lastBefore(holder, 'VariableDefinition', node.from));
  if (holder?.name === 'Property' || holder?.name === 'PropertyDeclaration')
    return textOf(holder.getChild('PropertyDefinition'));
  if (holder?.name === 'AssignmentExpression') return textOf(holder.firstChild).replace(/^.*\./, '');
  return '';
}

function classOf(method: Node): Node | null {
  for (let node = method.parent; node; node = node.parent)
    if (/^Class(?:Declaration|Expression)$/.test(node.name)) return node.getChild('VariableDefinition');
  return null;
}

/** Of several variables declared at once the one that stands before a place. */
function lastBefore(holder: Node, name: string, at: number): Node | null {
  return (
    holder
      .getChildren(name)
      .filter(({ from }) => from < at)
      .at(-1) ?? null
  );
}

function offsetOf(text: string, line: number, column: number): number {
  let at = 0;
  for (let i = 1; i < line; i++) {
    const next = text.indexOf('\n', at);
    if (next < 0) break;
    at = next + 1;
  }
  return Math.min(text.length, at + column);
}
