-- What a Windows machine said that it can count, and what was chosen of it (null: the usual). One row a source.
create table windows_counters (
  source_id int primary key references source on delete cascade,
  told jsonb not null,
  told_at timestamptz not null,
  -- How the machine writes its letters: its list is given back so.
  encoding text not null,
  chosen jsonb
);
