import type { Encoding } from '../ingest/accepted';
import { SIGNALS } from '../ingest/signals';
import { settings } from '../settings';
import { encodingOf, otlpFailed, RPC } from './otlp-answer';

/** Where profiles are taken while their schema is under development (OTLP 1.x). */
export const PROFILES_PATH = '/v1development/profiles';

const SIGNAL_PATHS = Object.keys(SIGNALS).map((signal) => `/v1/${signal}`);

/**
 * Answers an exporter that sends to a place where no OTLP is taken, with what to set instead; null for everything else. Nothing but OTLP
 * is sent here as `application/x-protobuf`; JSON is of one only at the root and below `/v1`.
 * @param origin of this server, as it is called
 */
export function strayExport({ method, headers }: Request, path: string, origin: string): Response | null {
  const encoding = encodingOf(headers.get('content-type'));
  if (method !== 'POST' || encoding === null || SIGNAL_PATHS.includes(path)) return null;
  if (path === PROFILES_PATH) return profilesOff(encoding);
  if (encoding === 'json' && path !== '/' && !path.startsWith('/v1')) return null;
  return otlpFailed(
    encoding,
    404,
    RPC.NOT_FOUND,
    `OTLP is taken at ${SIGNAL_PATHS.join(', ')}, not at ${path}. Set OTEL_EXPORTER_OTLP_ENDPOINT=${origin} (the paths are added to it), or OTEL_EXPORTER_OTLP_TRACES_ENDPOINT=${origin}/v1/traces.`
  );
}

const profilesOff = (encoding: Encoding): Response | null =>
  settings().takesProfiles
    ? null
    : otlpFailed(
        encoding,
        404,
        RPC.NOT_FOUND,
        'OTLP profiles are taken with the setting TROMIX_OTLP_PROFILES=1: their schema is under development.'
      );
