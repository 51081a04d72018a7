-- Passkeys (WebAuthn). A person may sign in by them alone: then there is no password.
alter table account
  alter column password_hash drop not null,
  -- what devices call the person by; it says nothing of them
  add column handle uuid not null default gen_random_uuid();

create table passkey (
  id int generated always as identity primary key,
  account_id int not null references account on delete cascade,
  name text not null check (char_length(name) between 1 and 64),
  -- the name of the server that it opens
  host text not null,
  credential_id text not null unique,
  public_key bytea not null,
  -- how often it signed, by its own count; 0 where it does not count
  counter bigint not null,
  transports text[] not null,
  is_backed_up boolean not null,
  created_at timestamptz not null default now(),
  last_used_at timestamptz
);
create index passkey_account on passkey (account_id);
