/** A segment of a route that stands for any value: `:id`, `{id}`, `<id>`, `*`. */
const PLACEHOLDER = /^(?::.+|\{.+\}|<.+>|\*)$/;

/** Whether one name of an endpoint is a route and the other what it may stand for: `GET /vessels/:id`, `GET /vessels/17`. */
export function namesSameRoute(one: string, other: string): boolean {
  const [a, b] = [one, other].map((name) => name.split(/[ /]/));
  if (one === other || a.length !== b.length) return false;
  return (
    a.some((segment) => PLACEHOLDER.test(segment)) !== b.some((segment) => PLACEHOLDER.test(segment)) &&
    a.every((segment, i) => segment === b[i] || PLACEHOLDER.test(segment) || PLACEHOLDER.test(b[i]))
  );
}
