import type { Attributes } from '@opentelemetry/api';

const SOURCES = new URL('..', import.meta.url).href;

/** The innermost frame of the services' own code outside the platform folder, as OpenTelemetry code attributes. */
export function originAttributes(): Attributes {
  const limit = Error.stackTraceLimit;
  Error.stackTraceLimit = 24;
  const stack = new Error().stack ?? '';
  Error.stackTraceLimit = limit;
  for (const line of stack.split('\n').slice(1)) {
    const at = line.indexOf(SOURCES);
    if (at < 0 || line.includes('/platform/')) continue;
    const place = /^(.+):(\d+):(\d+)\)?$/.exec(line.slice(at + SOURCES.length));
    if (!place) continue;
    const name = /^\s*at (?:async )?([^ (]+) \(/.exec(line)?.[1] ?? '';
    return {
      'code.file.path': place[1],
      'code.line.number': Number(place[2]),
      'code.column.number': Number(place[3]),
      ...(name ? { 'code.function.name': name } : {})
    };
  }
  return {};
}
