-- The server that works on this database, written by whoever holds the lock (db/claim.ts): one row at most.
create table serving (
  one boolean primary key default true check (one),
  instance uuid not null,
  host text not null,
  pid int not null,
  since timestamptz not null default now()
);

-- How late what a source sends may come (null: as it is measured), and how far back it may write.
alter table source
  add column late_ms int check (late_ms between 0 and 86400000),
  add column back_days int not null default 1 check (back_days between 1 and 3650);

-- Tokens for calendars: their feed's address holds one.
alter table token drop constraint token_scope_check, add constraint token_scope_check check (scope in ('write', 'read', 'manage', 'calendar'));

-- Of which source a series is: the first that told of it. Its series are counted by it, and what sends may write to no other's.
alter table series add column source_id int;
create index series_source on series (source_id);

-- Rows of journal, chunks, times and rollups that cannot be read, set aside whole so that the rest goes on. `place` says where each stood.
create table quarantine (
  id bigint generated always as identity primary key,
  origin text not null check (origin in ('journal', 'chunk', 'chunk_times', 'rollup_5m', 'rollup_1h')),
  place jsonb not null,
  reason text not null,
  payload bytea not null,
  set_aside_at timestamptz not null default now(),
  unique (origin, place)
);
alter table quarantine alter column payload set storage external;

-- The database knows itself: what is kept for it elsewhere (the spool) names it.
insert into setting (name, value) values ('database', jsonb_build_object('id', gen_random_uuid()));

-- The role that the server runs as reads and writes rows and owns no table: partitions are made and dropped for it by their owner.
create function make_partition(parent text, number int, units int) returns void
language plpgsql security definer set search_path from current as $$
begin
  if parent not in ('chunk', 'chunk_times', 'rollup_5m', 'rollup_1h') then
    raise exception 'make_partition: % is no partitioned table', parent;
  end if;
  perform set_config('lock_timeout', '5s', true);
  -- Blocks of two hours stay in the row up to 8 kB; a second table for them would double the reads.
  execute format('create table if not exists %I partition of %I for values from (%s) to (%s) with (toast_tuple_target = 8160)', parent || '_' || number, parent, number::bigint * units, (number::bigint + 1) * units);
end $$;

create function drop_partition(parent text, number int) returns void
language plpgsql security definer set search_path from current as $$
begin
  if parent not in ('chunk', 'chunk_times', 'rollup_5m', 'rollup_1h') then
    raise exception 'drop_partition: % is no partitioned table', parent;
  end if;
  perform set_config('lock_timeout', '2s', true);
  execute format('drop table if exists %I', parent || '_' || number);
end $$;

create function drop_first_slice() returns void
language sql security definer set search_path from current as $$
  drop table if exists first_chunk, first_journal
$$;
