-- A second factor: time codes (RFC 6238). The secret is sealed; of codes for recovery the hashes are kept.
alter table account
  add column code_secret text,
  -- begun, and not shown yet to work
  add column code_pending text,
  -- the step of the last code that was taken: none is taken twice
  add column code_step bigint not null default 0,
  add column recovery_hashes jsonb not null default '[]';
