-- The server that works on this database, written by whoever holds the lock (db/claim.ts): one row at most.
create table serving (
  one boolean primary key default true check (one),
  instance uuid not null,
  host text not null,
  pid int not null,
  since timestamptz not null default now()
);

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
