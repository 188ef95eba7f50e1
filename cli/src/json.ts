/**
 * A value as JSON with two blanks for each step inwards, in parts: as `JSON.stringify` writes it, but lists that are worked out while they are
 * read need not be held, nor the text, which may be longer than a string can be. Such a list is anything else than an array that can be
 * iterated; its items are plain data.
 */
export function* jsonParts(value: unknown, indent = ''): Generator<string> {
  if (typeof value !== 'object' || value === null) {
    yield JSON.stringify(value);
    return;
  }
  const inner = `${indent}  `;
  const listed = Symbol.iterator in value;
  const [open, close] = listed ? '[]' : '{}';
  let parts = 0;
  yield open;
  for (const part of listed ? itemsOf(value as Iterable<unknown>, inner) : membersOf(value, inner)) {
    yield parts++ === 0 ? `\n${inner}` : `,\n${inner}`;
    yield* part;
  }
  yield parts > 0 ? `\n${indent}${close}` : close;
}

function* itemsOf(list: Iterable<unknown>, indent: string): Generator<Iterable<string>> {
  for (const item of list)
    yield Array.isArray(list)
      ? jsonParts(item ?? null, indent)
      : [JSON.stringify(item, null, 2).replaceAll('\n', `\n${indent}`)];
}

function* membersOf(object: object, indent: string): Generator<Iterable<string>> {
  for (const [key, value] of Object.entries(object))
    if (value !== undefined) yield memberOf(key, value, indent);
}

function* memberOf(key: string, value: unknown, indent: string): Generator<string> {
  yield `${JSON.stringify(key)}: `;
  yield* jsonParts(value, indent);
}

/** Characters that are written at once. */
const BLOCK = 64 * 1024;

/** Parts of a text joined to blocks. */
export function* blocks(parts: Iterable<string>): Generator<string> {
  let block = '';
  for (const part of parts) {
    block += part;
    if (block.length < BLOCK) continue;
    yield block;
    block = '';
  }
  if (block) yield block;
}
