import type { Sender } from '../ingest/senders';
import { turnedAway, type TurnedAway } from '../http/turned-away';
import { callWriter } from '../workers';

/** What the view on gathering shows. */
export interface WhoSends {
  /** When this server started, epoch milliseconds: nothing older is counted. */
  sinceMs: number;
  senders: Sender[];
  turnedAway: TurnedAway[];
}

export const whoSends = async (): Promise<WhoSends> => ({
  sinceMs: Math.round(performance.timeOrigin),
  senders: await callWriter((writer) => writer.senders()),
  turnedAway: turnedAway()
});
