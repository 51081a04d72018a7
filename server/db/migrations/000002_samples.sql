-- Series: counter and tags; `key` is the canonical text of both (core/counters/series-key.ts).
create table series (
  id int generated always as identity primary key,
  key text not null unique,
  counter text not null,
  tags jsonb not null,
  unit text not null,
  kind text not null check (kind in ('total', 'level', 'state', 'distribution')),
  created_at timestamptz not null default now()
);

-- Journal: what has been acknowledged and is not compacted yet. One row a flush and two-hour slot;
-- the payload is a block of core/chunk/journal-block.ts. It is packed already: external storage, no second compression.
create table journal (
  id bigint generated always as identity primary key,
  slot_ms bigint not null,
  samples int not null check (samples > 0),
  payload bytea not null
);
alter table journal alter column payload set storage external;
create index journal_slot on journal (slot_ms);

-- Chunks: one block of core/chunk/chunk-block.ts per series and two-hour slot, partitioned by day (server/store/partitions.ts).
create table chunk (
  slot_ms bigint not null,
  series_id int not null, -- no foreign key: series are removed by retention, together with their partitions
  samples int not null check (samples > 0),
  payload bytea not null,
  primary key (series_id, slot_ms)
) partition by range (slot_ms);

-- How many samples every minute of a compacted slot holds, for the time rail.
create table gathered (
  slot_ms bigint primary key,
  per_minute int[] not null check (cardinality(per_minute) = 120)
);
