-- Relays gather at another site; a source may be asked from there.
alter table source drop constraint source_device_check, add constraint source_device_check check ((device is not null) = (kind not in ('this-machine', 'pull', 'push', 'collector', 'relay')));
alter table source add column asked_from int references source on delete set null;
-- Up to which record of a relay's spool everything is stored; another spool has another life, and counts anew.
create table relay_taken (
  source_id int primary key references source on delete cascade,
  life text not null,
  taken bigint not null check (taken >= 0)
);
-- Which version what sends for a source is of, where it tells.
alter table source add column sender_version text;
