import type { BoardChart, BoardFile } from '@tromix/core/watch/board';
import { send } from '$lib/ui/frame/send';

export const newChartId = (): string => crypto.randomUUID().slice(0, 18);

/** Puts a chart on a board that may have changed since it was listed. @returns the board's id */
export async function addChart(id: string, chart: BoardChart): Promise<string> {
  const board = await send<BoardFile & { version: number }>('GET', `/api/boards/${id}?as=stored`);
  const { version, name, charts } = board;
  await send('PUT', `/api/boards/${id}`, { version, name, charts: [...charts, chart] });
  return id;
}
