import { saveText } from '../kit/save-text';
import { copyText, type Action } from '../kit/actions';

interface Exported {
  traceId: string;
  spanId: string;
  /** The request in words, as Markdown. */
  ticket: () => string;
  /** The timeline, with its colours resolved; null where it is not shown. */
  picture: ((colourOf: (token: string) => string) => string) | null;
}

/** What a request can be saved as. */
export function requestExports({ traceId, spanId, ticket, picture }: Exported): Action[] {
  const file = `request-${traceId.slice(0, 8)}`;
  return [
    { name: 'The trace (OTLP JSON)', href: `/api/requests/${traceId}/${spanId}/otlp`, download: true },
    { name: 'Text for a ticket, copied', run: () => copyText(ticket()) },
    {
      name: 'Text for a ticket, as a file',
      run: () => saveText(`${file}.md`, ticket(), 'text/markdown')
    },
    ...(picture
      ? [
          {
            name: 'Picture of the timeline (SVG)',
            run: () => saveText(`${file}.svg`, picture(resolvedColours()), 'image/svg+xml')
          }
        ]
      : [])
  ];
}

/** Custom properties as the colours they stand for now: a file has no style sheet. */
function resolvedColours(): (token: string) => string {
  const style = getComputedStyle(document.documentElement);
  return (token) => {
    const name = /var\((--[\w-]+)\)/.exec(token)?.[1];
    return name ? style.getPropertyValue(name).trim() : token;
  };
}
