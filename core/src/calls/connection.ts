import { textOf, type Span } from '../trace/span';

/**
 * What spans of clients and pools are called that hand out or open connections: those of the drivers of PostgreSQL, MySQL, SQL Server, Redis
 * and Oracle, of generic pools, of JDBC data sources and of Go's `database/sql`, as their instrumentations name them (recordings/traces; others
 * from memory). A pool's span is the wait for a free connection, with the opening of a new one inside it.
 */
const WAITS =
  /^(?:[\w.-]*pool[\w.-]*[. ](?:connect|acquire|get ?connection|checkout|borrow)|(?:[\w.-]+\.)?(?:acquire|get_?connection|checkout_?connection|borrow_?object|connection\.acquire))\b/i;
const OPENS =
  /^(?:[\w-]+[.-])*(?:connect|connection|open|handshake|authenticate|login|ping|reset_session|create_?connection|new_?connection)$/i;

/**
 * Says whether a span is a step on the way to a connection: `wait` for a free one, `open` one; null where it is neither. A span with a statement,
 * or one that is neither of a database nor of a pool, is neither.
 */
export function connectionStep({
  name,
  attributes: a
}: Pick<Span, 'name' | 'attributes'>): 'wait' | 'open' | null {
  if (textOf(a, 'db.query.text', 'db.statement') !== '') return null;
  if (WAITS.test(name)) return 'wait';
  const ofDatabase = a.has('db.system.name') || a.has('db.system');
  return ofDatabase && OPENS.test(name) ? 'open' : null;
}

/** How many connections a pool may hold, where one of its spans says so. */
export function poolSizeOf({ attributes: a }: Pick<Span, 'attributes'>): number | null {
  for (const name of POOL_SIZES) {
    const size = a.get(name);
    if (typeof size === 'number' && size > 0) return size;
  }
  return null;
}
/** The first is that of OpenTelemetry's metric conventions; the second the instrumentation of PostgreSQL's driver for Node writes. */
const POOL_SIZES = ['db.client.connection.max', 'db.postgresql.max.client'];
