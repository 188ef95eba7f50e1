import {
  blob,
  index,
  integer,
  primaryKey,
  real,
  sqliteTable,
  text,
  uniqueIndex
} from 'drizzle-orm/sqlite-core';
import { integers, texts } from './columns';

// What recordings of CPU come to, without their samples: sums over stacks, which the store knows once.

/** Functions, by all that tells them apart. */
export const profileFrames = sqliteTable(
  'profile_frames',
  {
    id: integer('id').primaryKey(),
    serviceId: integer('service_id').notNull(),
    ...texts('name', 'file'),
    ...integers('line', 'col'),
    ...texts('package', 'kind')
  },
  (t) => [uniqueIndex('profile_frames_what').on(t.serviceId, t.name, t.file, t.line, t.col)]
);

/** Stacks: each is another with one call more. What a stack stands in has a lower number. */
export const profileStacks = sqliteTable(
  'profile_stacks',
  {
    id: integer('id').primaryKey(),
    serviceId: integer('service_id').notNull(),
    /** Number of the stack without its innermost call; 0 for none. */
    parent: integer('parent').notNull(),
    frameId: integer('frame_id').notNull()
  },
  (t) => [
    uniqueIndex('profile_stacks_what').on(t.parent, t.frameId),
    index('profile_stacks_of').on(t.serviceId)
  ]
);

/** A recorded part of a minute of one process; what is older than a day and has no file any more, of an hour of a host. */
export const profileSlices = sqliteTable(
  'profile_slices',
  {
    id: integer('id').primaryKey(),
    /** `cpu` or `wall`: what the weights are. */
    valueType: text('value_type').notNull(),
    ...integers('serviceId', 'hostId', 'releaseId', 'pid', 'startUs'),
    /** From its first to its last moment, and how much of that was recorded. */
    ...integers('lengthUs', 'spanUs', 'samples', 'busyUs', 'idleUs'),
    /** The evidence it was made of; '' where that went. */
    source: text('source').notNull(),
    /** See core/profile/sums/stack-weights.ts. */
    weights: blob('weights').notNull()
  },
  (t) => [
    index('profile_slices_time').on(t.serviceId, t.startUs),
    index('profile_slices_source').on(t.source)
  ]
);

/** The part of a slice that ran in the requests of an endpoint. */
export const profileEndpointSlices = sqliteTable(
  'profile_endpoint_slices',
  {
    ...integers('sliceId', 'endpointId'),
    /** Requests whose own time lies in it; one with a part of its time counts with that part. */
    requests: real('requests').notNull(),
    /** Of `busyUs`, `sharedUs` was divided among requests that ran at the same time. */
    ...integers('busyUs', 'sharedUs'),
    weights: blob('weights').notNull()
  },
  (t) => [primaryKey({ columns: [t.sliceId, t.endpointId] })]
);

/** Profiles that were summed up, and the requests that were known of their time then: with others they are summed up again. */
export const profileCondensed = sqliteTable('profile_condensed', {
  evidenceId: text('evidence_id').primaryKey(),
  ...integers('requests', 'atUs'),
  /** Why it has no sums; '' where it has. */
  message: text('message').notNull()
});
