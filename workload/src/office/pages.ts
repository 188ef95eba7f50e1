import type { Settings } from '../platform/settings';

interface PageText {
  title: string;
  /** Scripts that have to be there before anything is painted. */
  scripts: string[];
  body: string;
  /** It makes profiles of itself. */
  isProfiled?: boolean;
}

const LINKS = [
  ['/office/board', 'Board'],
  ['/office/berths/17', 'Berths'],
  ['/office/vessels', 'Vessels']
] as const;

/** Tells Tromix of the page's loads, where one is named. */
const collectTag = ({ collect, service, release }: Settings, isProfiled: boolean): string =>
  collect === ''
    ? ''
    : `<script src="${collect}/collect.js" data-service="${service}-office" data-release="${release}"${isProfiled ? ' data-profile-share="1"' : ''}></script>`;

/** A page as HTML. */
export function pageHtml(settings: Settings, { title, scripts, body, isProfiled = false }: PageText): string {
  const links = LINKS.map(([href, name]) => `<a href="${href}">${name}</a>`).join(' ');
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>${title} · Quillhaven</title>
${collectTag(settings, isProfiled)}
<link rel="stylesheet" href="/office/assets/office.css">
${scripts.map((file) => `<script src="/office/assets/${file}"></script>`).join('\n')}
</head>
<body>
<header><b>Quillhaven</b> <nav>${links}</nav></header>
<main>${body}</main>
</body>
</html>
`;
}

/** The board: the tides of every station, and a picture of the harbour. */
export function boardPage(settings: Settings): string {
  const { faults } = settings;
  const picture =
    '<img class="harbour" src="/office/assets/harbour.png" alt="The harbour" width="960" height="400">';
  const isLate = faults.has('late-picture');
  const settingsOfPage = JSON.stringify({
    oneByOne: faults.has('tide-by-tide'),
    heavyTides: faults.has('tides-in-one-task'),
    latePicture: isLate
  });
  return pageHtml(settings, {
    title: 'Board',
    // What holds it is looked into.
    isProfiled: faults.has('tides-in-one-task'),
    scripts: faults.has('charts-before-paint') ? ['charts.js'] : [],
    body: `<h1>The board</h1>
<div id="picture">${isLate ? '' : picture}</div>
<p><button id="tides">Show the tides</button> <button id="print">Print the plan</button></p>
<canvas id="curve" width="960" height="160"></canvas>
<ol id="windows"></ol>
<script>window.office = ${settingsOfPage}</script>
<script src="/office/assets/board.js"></script>`
  });
}

/** A berth, with the plan as the server has worked it out. */
export const berthPage = (settings: Settings, id: string, plan: unknown): string =>
  pageHtml(settings, {
    title: `Call ${id}`,
    scripts: [],
    body: `<h1>The berth of call ${Number(id)}</h1><pre>${escape(JSON.stringify(plan, null, 1)).slice(0, 4000)}</pre>`
  });

export const vesselsPage = (settings: Settings, vessels: readonly { imo: number; name: string }[]): string =>
  pageHtml(settings, {
    title: 'Vessels',
    scripts: [],
    body: `<h1>Vessels</h1><ul>${vessels.map(({ imo, name }) => `<li>${imo} ${escape(name)}</li>`).join('')}</ul>`
  });

const escape = (text: string): string => text.replace(/[&<>"]/g, (sign) => `&#${sign.charCodeAt(0)};`);
