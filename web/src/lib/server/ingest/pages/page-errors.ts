import type { LogRecord } from '@tromix/core/formats/otlp/logs';
import type { PageError, PageLoad } from '@tromix/core/pages/page-load';
import { resourceFrom } from '@tromix/core/trace/resource';
import type { Attributes } from '@tromix/core/trace/span';

/** OTLP `SEVERITY_NUMBER_ERROR`. */
const ERROR = 17;

/** Browsers are no hosts of a system: all of them are one. */
export const BROWSERS = 'browsers';

/** What a page said of its errors, as log records: so they are grouped and counted as all failures are. */
export const errorRecords = (load: PageLoad, errors: readonly PageError[]): LogRecord[] =>
  errors.map((error): LogRecord => {
    const atUs = Math.round(load.atUs + error.atMs * 1000);
    const attributes: Attributes = new Map<string, string>([
      ['exception.type', error.type],
      ['exception.message', error.message],
      ['exception.stacktrace', error.stack],
      ['url.full', load.url],
      ['session.id', load.session],
      [LOAD_ATTRIBUTE, load.traceId]
    ]);
    const process: Attributes = new Map<string, string>([
      ['service.name', load.service],
      ['service.version', load.release],
      ['host.name', BROWSERS]
    ]);
    return {
      resource: resourceFrom(process),
      traceId: '',
      spanId: '',
      atUs,
      atNs: 0,
      severity: ERROR,
      body: `${error.type}: ${error.message}`,
      attributes
    };
  });

/** Names the load that an error happened in. */
export const LOAD_ATTRIBUTE = 'tromix.page.load';
