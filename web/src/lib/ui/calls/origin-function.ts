/** The function that an origin names after its place, `file:line function`; '' where it names none. */
export function functionOf(origin: string): string {
  const blank = origin.indexOf(' ');
  const name = blank < 0 ? '' : origin.slice(blank + 1);
  // Runtimes put what a method belongs to before it; profiles name the method alone.
  return name.split('.').at(-1) ?? '';
}
