/** How a page wants its loads told: attributes of the script's element. */
export interface Config {
  /** Where to: the address of the script itself, without its last part. */
  to: string;
  key: string;
  service: string;
  release: string;
  country: string;
  /** Share of visits that are told, and of those told the share whose loads the page profiles itself. */
  share: number;
  profileShare: number;
  /** Nothing is noted or sent before the page says that the person agrees. */
  asksFirst: boolean;
  /** Takes what would be sent, by its path; undefined where it is sent. */
  tell?: (path: string, text: string) => void;
}

/**
 * @example
 * <script async src="https://tromix.quay.example/collect.js" data-service="board" data-release="7.3" data-key="…" data-share="0.1"></script>
 */
export function configOf({ src, dataset }: { src: string; dataset: DOMStringMap }): Config {
  return {
    to: new URL('.', src).href,
    key: dataset.key ?? '',
    service: dataset.service ?? location.host,
    release: dataset.release ?? '',
    country: dataset.country ?? '',
    share: shareOf(dataset.share, 1),
    profileShare: shareOf(dataset.profileShare, 0),
    asksFirst: dataset.consent === 'ask'
  };
}

/** A share from 0 to 1; what is none means nothing. */
function shareOf(text: string | undefined, usual: number): number {
  if (text === undefined) return usual;
  const share = Number(text);
  return share >= 0 && share <= 1 ? share : 0;
}
