-- Of several servers on one database each asks some of the sources: which asks which, and until when that holds unless
-- that one says again that it does.
create table source_lease (
  source_id int primary key references source (id) on delete cascade,
  server uuid not null,
  until timestamptz not null,
  -- grows whenever the source is to be asked otherwise
  turn int not null default 1,
  -- what is wanted of it more often for a while
  haste jsonb,
  -- the server that leads wants it back
  asked_back boolean not null default false
);
create index source_lease_server on source_lease (server);

-- From where a server reaches what is reached on its own machine only, and when it said last that it asks.
alter table beside add column place text, add column asking timestamptz;
