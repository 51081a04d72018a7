-- Where people signed in: a browser from a network. What is new is told to them elsewhere.
create table sign_in_place (
  id int generated always as identity primary key,
  account_id int not null references account on delete cascade,
  device text not null,
  -- an address, or a network of IPv6 that one house has
  network text not null,
  first_at timestamptz not null default now(),
  -- null until the person said that it was them
  known_at timestamptz,
  unique (account_id, device, network)
);
-- Where somebody is signed in already is nothing new. Networks of IPv6 are told once more.
insert into sign_in_place (account_id, device, network, known_at)
select distinct account_id, device, place, now() from session
on conflict do nothing;

-- Who is told of what happens at the door, and up to which deed they were.
create table door_news (
  is_one boolean primary key default true check (is_one),
  settings jsonb not null,
  told_id bigint not null,
  last_sent jsonb
);
