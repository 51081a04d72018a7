-- What is sent on to other receivers, and up to when it was taken there.
create table forward (
  id int generated always as identity primary key,
  settings jsonb not null,
  secret bytea, -- the values of its headers, sealed with a key that is not in this database
  sent_until_ms bigint not null
);
