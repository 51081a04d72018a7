-- What is gathered from. A source that was removed stays for a while, so that removing can be undone; its samples stay in any case.
create table source (
  id int generated always as identity primary key,
  name text not null check (name = btrim(name) and char_length(name) between 1 and 100),
  kind text not null check (kind in ('this-machine', 'pull', 'push', 'collector')),
  machine text not null check (machine = btrim(machine) and char_length(machine) between 1 and 200),
  interval_ms int not null check (interval_ms between 100 and 3600000),
  is_paused boolean not null default false,
  tells_silence boolean not null default true,
  address jsonb check ((address is not null) = (kind = 'pull')),
  trust jsonb not null default '{"kind": "system"}',
  credentials text not null default 'none' check (credentials in ('none', 'basic', 'bearer')),
  secret bytea, -- sealed with a key that is not in this database
  tags jsonb not null default '{}',
  take jsonb not null default '[]',
  csv jsonb, -- how its tables are read, once a person has confirmed it
  created_at timestamptz not null default now(),
  removed_at timestamptz
);
create unique index source_name on source (lower(name)) where removed_at is null;
create unique index source_this_machine on source (kind) where kind = 'this-machine' and removed_at is null;

-- How a source stood, from then until then: one row as long as nothing changes.
create table source_spell (
  source_id int not null references source on delete cascade,
  from_ms bigint not null,
  until_ms bigint not null check (until_ms >= from_ms),
  outcome text not null, -- 'ok' or the kind of a diagnosis
  words text not null,
  primary key (source_id, from_ms)
);

-- What people call a machine, and tags that hold for all its series without being part of them.
create table machine (
  name text primary key,
  friendly_name text not null default '' check (char_length(friendly_name) <= 100),
  tags jsonb not null default '{}'
);

-- A token's text is kept as its SHA-256 only.
create table token (
  id int generated always as identity primary key,
  name text not null check (name = btrim(name) and char_length(name) between 1 and 100),
  scope text not null check (scope in ('write', 'read', 'manage')),
  source_id int references source on delete cascade,
  hash bytea not null unique check (octet_length(hash) = 32),
  created_at timestamptz not null default now(),
  last_used_at timestamptz,
  revoked_at timestamptz,
  check ((scope = 'write') = (source_id is not null))
);

alter table incident add column source_id int references source on delete set null;
create unique index incident_silence on incident (source_id) where source_id is not null and cleared_at_ms is null;
