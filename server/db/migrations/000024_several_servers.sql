-- Several servers on one database: how the one that leads is reached by the others, and which stand beside it.
alter table serving add column address text, add column pin text, add column pass text;

create table beside (
  instance uuid primary key,
  host text not null,
  pid int not null,
  address text not null,
  since timestamptz not null default now(),
  heard timestamptz not null default now(),
  behind_ms real -- how long after its commit what is newest was known there, the most of late
);
