-- People with roles, invitations, sessions that can be told apart, links that show one dashboard, and who did what.

-- A person who leaves keeps their name in what they did, and gives it free for somebody else.
alter table account drop constraint account_role_check;
alter table account
  add constraint account_role_check check (role in ('owner', 'keeper', 'viewer')),
  -- what a viewer is held to; null where nothing is held back
  add column limits jsonb,
  add column removed_at timestamptz,
  add check (limits is null or role = 'viewer');
drop index account_name;
create unique index account_name on account (lower(name)) where removed_at is null;

create table invitation (
  id int generated always as identity primary key,
  code_hash bytea not null unique check (octet_length(code_hash) = 32),
  role text not null check (role in ('owner', 'keeper', 'viewer')),
  limits jsonb,
  created_by text not null,
  created_at timestamptz not null default now(),
  until_at timestamptz not null,
  accepted_by text,
  withdrawn_at timestamptz
);

-- The number of a session stands where its token must not.
alter table session
  add column id int generated always as identity unique,
  add column device text not null default '',
  add column place text not null default '',
  -- when the person last showed who they are
  add column proven_at timestamptz not null default now();

-- A link opens one dashboard, or one tile of it, for whoever has it. A wall's has no end.
create table link (
  id int generated always as identity primary key,
  secret_hash bytea not null unique check (octet_length(secret_hash) = 32),
  name text not null check (char_length(name) between 1 and 200),
  dashboard_id int not null references dashboard on delete cascade,
  version int not null,
  tile text,
  until_at timestamptz,
  "window" jsonb not null,
  -- pages of these may hold it in a frame
  origins jsonb not null default '[]',
  created_by text not null,
  created_at timestamptz not null default now(),
  revoked_at timestamptz,
  opened int not null default 0,
  last_opened_at timestamptz
);

-- Who did what. The server's role adds to it and reads it; it changes and removes nothing.
create table audit (
  id bigint generated always as identity primary key,
  at timestamptz not null default now(),
  who text not null,
  -- by what they were known: a person, a token, a link, a command, or nothing
  known_by text not null,
  place text not null,
  did text not null,
  subject text not null,
  before jsonb,
  after jsonb,
  outcome text not null
);
create index audit_at on audit (at);

-- Rows older than what is kept are removed by the tables' owner, never younger ones than thirty days.
create function forget_audit(older_than timestamptz) returns void
language sql security definer set search_path from current as $$
  delete from audit where at < least(older_than, now() - interval '30 days');
$$;

alter table token
  add column until_at timestamptz,
  add column addresses jsonb not null default '[]',
  add column account_id int references account on delete cascade,
  add column created_by text not null default '';
