-- Recordings: what is to be recorded, its runs, and the samples of runs that have ended, kept apart from the store's
-- own so that they outlive its raw tier.
create table recording (
  id int generated always as identity primary key,
  name text not null check (char_length(name) between 1 and 200),
  document jsonb not null,
  changed_at timestamptz not null default now(),
  changed_by text not null,
  removed_at timestamptz
);
create unique index recording_name on recording (lower(name)) where removed_at is null;

create table recording_run (
  id int generated always as identity primary key,
  recording_id int not null references recording on delete cascade,
  -- what the recording said when the run began
  document jsonb not null,
  origin text not null check (origin in ('person', 'script', 'schedule', 'file')),
  -- the beginning of the schedule's time that it is of: one run each
  planned_ms bigint,
  started_ms bigint not null,
  until_ms bigint,
  -- when the server last saw to it
  seen_ms bigint not null,
  ended_ms bigint check (ended_ms >= started_ms),
  ended_because text,
  parts jsonb not null,
  samples bigint not null default 0,
  bytes bigint not null default 0,
  strip jsonb not null default '[]',
  notes jsonb not null default '[]',
  -- the processes that used most
  used jsonb not null default '[]',
  -- of a run from a file: what happened in it
  events jsonb not null default '[]',
  -- its samples stand in recording_samples
  is_kept boolean not null default false,
  check ((ended_ms is null) = (ended_because is null)),
  unique (recording_id, planned_ms)
);
create index recording_run_open on recording_run (id) where ended_ms is null or not is_kept;
create index recording_run_of on recording_run (recording_id, started_ms);

create table recording_samples (
  run_id int not null references recording_run on delete cascade,
  place int not null,
  counter text not null,
  unit text not null,
  kind text not null,
  tags jsonb not null,
  falls text,
  of_sentences jsonb not null,
  block bytea not null,
  primary key (run_id, place)
);
