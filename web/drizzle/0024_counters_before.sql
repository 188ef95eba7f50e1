-- Its values are taken into the new tables when the writer opens (ingest/counters/earlier.ts).
ALTER TABLE `counters` RENAME TO `counters_before`;
