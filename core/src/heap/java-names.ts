const PRIMITIVES: Record<string, string> = {
  Z: 'boolean',
  C: 'char',
  F: 'float',
  D: 'double',
  B: 'byte',
  S: 'short',
  I: 'int',
  J: 'long'
};

/** What stands between the name of a hidden class and its number. */
const HIDDEN = /[+/](?=0x[0-9a-f]+$)/;

/**
 * `java.lang.Object[]` of `[Ljava/lang/Object;`, `byte[]` of `[B`, `java.util.Map$Entry` of `java/util/Map$Entry`. A hidden class has a number
 * after its name, which a dump sets off by `+` and the machine itself by `/` (JDK 17, seen).
 */
export function javaClassName(name: string): string {
  const dimensions = /^\[*/.exec(name)![0].length;
  const rest = name.slice(dimensions);
  const element =
    dimensions === 0
      ? rest
      : (PRIMITIVES[rest] ?? (rest.startsWith('L') ? rest.slice(1).replace(/;$/, '') : rest));
  return element.replace(HIDDEN, '\n').replaceAll('/', '.').replace('\n', '/') + '[]'.repeat(dimensions);
}

/** The package of a class, that of its elements for an array; '' for the default package. */
export function javaPackage(name: string): string {
  const element = name.replace(/(?:\[\])+$/, '');
  if (Object.values(PRIMITIVES).includes(element)) return '(primitive)';
  const dot = element.lastIndexOf('.');
  return dot < 0 ? '' : element.slice(0, dot);
}

/** The platform's own packages and primitives are not the program's. */
export const isOwnJava = (name: string): boolean =>
  !/^(?:java|javax|jdk|sun|com\.sun|netscape)\./.test(name) &&
  !/^(?:boolean|char|float|double|byte|short|int|long)\[/.test(name);
