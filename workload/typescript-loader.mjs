// Strips types without moving a line, so that a profile or a stack names the very line of the source.
import { readFile } from 'node:fs/promises';
import { fileURLToPath } from 'node:url';
import { transform } from 'sucrase';

export async function resolve(specifier, context, next) {
  if (specifier.startsWith('.') && context.parentURL?.endsWith('.ts') && !/\.[cm]?[jt]s$/.test(specifier)) {
    return next(`${specifier}.ts`, context);
  }
  return next(specifier, context);
}

export async function load(url, context, next) {
  if (!url.endsWith('.ts')) return next(url, context);
  const file = fileURLToPath(url);
  const { code } = transform(await readFile(file, 'utf8'), {
    transforms: ['typescript'],
    filePath: file,
    disableESTransforms: true
  });
  return { format: 'module', source: code, shortCircuit: true };
}
