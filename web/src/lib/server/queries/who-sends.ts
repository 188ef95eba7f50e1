import { assistantUse, type AssistantUse } from '../assistant/usage';
import type { Sender } from '../ingest/senders';
import { turnedAway, type TurnedAway } from '../http/turned-away';
import { settings } from '../settings';
import { callWriter } from '../workers';

/** What the view on gathering shows. */
export interface WhoSends {
  /** When this server started, epoch milliseconds: nothing older is counted. */
  sinceMs: number;
  senders: Sender[];
  turnedAway: TurnedAway[];
  /** What has asked by the Model Context Protocol; null where that is not switched on. */
  assistants: AssistantUse[] | null;
}

export const whoSends = async (): Promise<WhoSends> => ({
  sinceMs: Math.round(performance.timeOrigin),
  senders: await callWriter((writer) => writer.senders()),
  turnedAway: turnedAway(),
  assistants: settings().answersAssistants ? assistantUse() : null
});
