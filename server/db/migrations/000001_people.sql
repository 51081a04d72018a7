-- Accounts and sessions. A session's token is kept as its SHA-256 only, so that a copy of the database opens nothing.
create table account (
  id int generated always as identity primary key,
  name text not null check (name = btrim(name) and char_length(name) between 1 and 64),
  password_hash text not null,
  role text not null check (role in ('owner')),
  created_at timestamptz not null default now()
);
create unique index account_name on account (lower(name));

create table session (
  token_hash bytea primary key check (octet_length(token_hash) = 32),
  account_id int not null references account on delete cascade,
  created_at timestamptz not null default now(),
  last_seen_at timestamptz not null default now()
);
