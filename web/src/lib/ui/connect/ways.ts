import { sdkSettings } from '$lib/ui/shell/sending';

/** Where the command sends by itself. */
const USUAL = 'http://127.0.0.1:4380';

/** The script that pages tell of their loads by. */
export const pageTag = (origin: string, withKey: boolean): string =>
  `<script async src="${origin}/collect.js" data-service="my-site" data-release="1.0"${withKey ? ' data-key="your-key"' : ''}></${'script'}>`;

/** A kind of sender: its name, the exact lines, and what to know. */
export interface Way {
  name: string;
  lines: string[];
  about: string;
}

/** How programs are made to send here, the simplest first. @param origin of this server */
export function waysToSend(origin: string, withToken: boolean): Way[] {
  const to = origin === USUAL ? '' : ` --to ${origin}`;
  const token = withToken ? ['OTEL_EXPORTER_OTLP_HEADERS=authorization=Bearer%20your-token'] : [];
  const settings = sdkSettings(origin, withToken);
  return [
    {
      name: 'Node.js',
      lines: [...token, `npx tromix run${to} -- node server.js`].join(' ').split('\n'),
      about:
        'Your program as it is, after the two dashes. Database calls carry the line that made them, and the recorder finds the process. “tromix run --print” shows what it sets.'
    },
    {
      name: 'Java, Python, Go, .NET and others',
      lines: settings,
      about:
        'Set these for a program that has the OpenTelemetry SDK of its language, or its agent that needs no change of the code. Add OTEL_RESOURCE_ATTRIBUTES=service.version=1.2.0 so that releases are told apart.'
    },
    {
      name: 'OpenTelemetry Collector',
      lines: [
        'exporters:',
        '  otlphttp/tromix:',
        `    endpoint: ${origin}`,
        ...(withToken ? ['    headers:', '      authorization: Bearer your-token'] : []),
        'service:',
        '  pipelines:',
        '    traces:',
        '      exporters: [otlphttp/tromix]'
      ],
      about: 'Added to the exporters a collector has already; it goes on sending to them.'
    },
    {
      name: 'Pages in the browser',
      lines: [pageTag(origin, withToken)],
      about:
        'In the head of each page. Pages on the loopback may send at once, others are named by TROMIX_COLLECT_ORIGINS; where there is a token, TROMIX_COLLECT_KEY is asked for.'
    }
  ];
}
