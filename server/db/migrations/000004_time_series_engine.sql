-- The first slice's tables stay until what they hold has been taken over (server/store/take-over.ts).
alter table journal rename to first_journal;
alter table chunk rename to first_chunk;
alter table first_journal rename constraint journal_pkey to first_journal_pkey;
alter table first_chunk rename constraint chunk_pkey to first_chunk_pkey;
alter sequence journal_id_seq rename to first_journal_id_seq;
alter index journal_slot rename to first_journal_slot;
drop table gathered; -- counted anew when the samples are taken over

-- Slots are numbered: two hours since 1970.

-- Journal: what has been acknowledged and is not compacted yet. Rows of a segment are read in the order of seq, for values
-- lean on the row before (core/chunk/journal-block.ts). Packed already: external storage, no second compression.
create sequence journal_era;
create table journal (
  segment bigint not null,
  seq int not null,
  slot int not null,
  samples int not null check (samples > 0),
  payload bytea not null,
  primary key (segment, seq)
);
alter table journal alter column payload set storage external;

-- Chunks: one block of core/chunk/chunk-block.ts a series and slot; partitions of a day (server/store/partitions.ts).
-- No foreign keys: series and times are removed by retention, together with their partitions.
create table chunk (
  series_id int not null,
  slot int not null,
  times_id int, -- the times that the block shares; null where they are inside it
  payload bytea not null,
  primary key (series_id, slot)
) partition by range (slot);

-- Times that the series of one source share, once a slot.
create sequence chunk_times_id as int;
create table chunk_times (
  id int not null default nextval('chunk_times_id'),
  slot int not null,
  payload bytea not null,
  primary key (id, slot)
) partition by range (slot);

-- Rollups: one block of core/chunk/rollup-block.ts a series and period: a day of 5 min buckets, ten days of hours.
create table rollup_5m (
  series_id int not null,
  period int not null, -- days since 1970
  payload bytea not null,
  primary key (series_id, period)
) partition by range (period);
create table rollup_1h (
  series_id int not null,
  period int not null, -- tens of days since 1970
  payload bytea not null,
  primary key (series_id, period)
) partition by range (period);

-- Periods whose rollup is missing or stale. Written with the chunks that make it so, removed with the rollup that ends it.
create table rollup_due (
  tier text not null check (tier in ('5m', '1h')),
  period int not null,
  series_ids int[], -- null: all
  primary key (tier, period)
);

-- How many samples every minute of a compacted slot holds, for the time rail.
create table gathered (
  slot int primary key,
  per_minute int[] not null check (cardinality(per_minute) = 120)
);

create table setting (
  name text primary key,
  value jsonb not null,
  changed_at timestamptz not null default now()
);
