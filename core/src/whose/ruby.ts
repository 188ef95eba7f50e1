import { APP, dependency, RUNTIME, type Whose } from './whose';

const GEM = /[/\\]gems[/\\]([^/\\]+?)-\d[^/\\]*[/\\](?!.*[/\\]gems[/\\])/;
const STANDARD = /^<internal:|[/\\]lib[/\\]ruby[/\\]\d/;

/** Whose code a Ruby method is. */
export function whoseRuby(file: string): Whose {
  const gem = GEM.exec(file);
  if (gem) return dependency(gem[1]);
  return STANDARD.test(file) ? RUNTIME : APP;
}
