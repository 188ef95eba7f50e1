import type { RequestAccount } from '@tromix/core/trace/requests';
import { formatDuration } from '@tromix/core/text/format';
import type { RequestPage } from '$lib/server/queries/request-page';
import type { Offer } from '$lib/ui/cases/pins.svelte';
import { ACCOUNTS, LOOKS } from '$lib/ui/ledger/accounts';

/**
 * A request as something to be pinned: one with findings that others have too stands for the slow ones.
 * @param explainedNs what of its unseen time a profile explains @param picture of its timeline
 */
export const requestOffer = (
  { traceId, same }: Pick<RequestPage, 'traceId' | 'same'>,
  { endpoint, durationNs, ledger }: Pick<RequestAccount, 'endpoint' | 'durationNs' | 'ledger'>,
  explainedNs: number,
  picture: string
): Offer => ({
  kind: 'request',
  role: durationNs > 0 && same.length > 0 ? 'slow request' : 'normal request',
  title: `${endpoint}, ${formatDuration(durationNs)}`,
  figures: [
    { name: 'took', value: formatDuration(durationNs) },
    ...ACCOUNTS.filter((account) => ledger[account] > 0)
      .toSorted((a, b) => ledger[b] - ledger[a])
      .map((account) => ({ name: LOOKS[account].name, value: formatDuration(ledger[account]) })),
    ...(explainedNs > 0 ? [{ name: 'explained by a profile', value: formatDuration(explainedNs) }] : [])
  ],
  picture,
  traces: [traceId]
});
