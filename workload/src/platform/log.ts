import { SeverityNumber, type Logger } from '@opentelemetry/api-logs';
import { OTLPLogExporter } from '@opentelemetry/exporter-logs-otlp-proto';
import { BatchLogRecordProcessor, LoggerProvider } from '@opentelemetry/sdk-logs';
import { processResource } from './process-resource';
import type { Settings } from './settings';

let logger: Logger | undefined;
const EXPORT_EVERY_MS = 500;

/** Sends what the services log; records of a request carry its trace and span. Returns how to flush and stop it. */
export function startLogs(settings: Settings): () => Promise<void> {
  const provider = new LoggerProvider({
    resource: processResource(settings),
    processors: [
      new BatchLogRecordProcessor({
        exporter: new OTLPLogExporter({ url: `${settings.otlpEndpoint}/v1/logs` }),
        scheduledDelayMillis: EXPORT_EVERY_MS
      })
    ]
  });
  logger = provider.getLogger('quillhaven');
  return () => provider.shutdown();
}

type Facts = Record<string, string | number>;
const say =
  (severityNumber: SeverityNumber) =>
  (body: string, attributes: Facts = {}): void =>
    logger?.emit({ severityNumber, body, attributes });

export const log = {
  info: say(SeverityNumber.INFO),
  warn: say(SeverityNumber.WARN),
  error: say(SeverityNumber.ERROR)
};
