-- A password that was handed to somebody is theirs for one sign-in: they choose another then.
alter table account add column password_is_handed boolean not null default false;

-- What a person signs in by was changed: told on their other pages.
create table factor_change (
  id int generated always as identity primary key,
  account_id int not null references account on delete cascade,
  -- the one that it was done in; told in every other
  session_id int not null,
  did text not null,
  at timestamptz not null default now(),
  known_at timestamptz
);
create index factor_change_account on factor_change (account_id) where known_at is null;

-- Codes for recovery are salted from here on. Those of before open nothing any more: whoever has some takes up new ones.
update account set recovery_hashes = '[]';
