import type { RequestPart } from '@tromix/core/calls/parts';
import { writeSketch } from '@tromix/core/stats/sketch';

/**
 * A part of a request as it is stored: group, origin, calls, total_ns, booked_ns, failed, retried, on_round, rows, rows_known,
 * bytes_read, bytes_written, slowest_ns, sketch.
 */
export type StoredPart = [...number[], string];

export function storedPart(part: RequestPart, groupId: number, originId: number): StoredPart {
  return [
    groupId,
    originId,
    part.count,
    part.totalNs,
    part.bookedNs,
    part.failed,
    part.retried,
    part.onRound,
    part.rows,
    part.rowsKnown,
    part.bytesRead,
    part.bytesWritten,
    part.slowestNs,
    writeSketch(part.sketch)
  ];
}
