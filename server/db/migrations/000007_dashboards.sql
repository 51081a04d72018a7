-- Dashboards: the newest document, every earlier one, and whose stars they carry.
create table dashboard (
  id int generated always as identity primary key,
  title text not null check (char_length(title) between 1 and 200),
  document jsonb not null,
  revision int not null default 1 check (revision >= 1),
  changed_at timestamptz not null default now(),
  changed_by text not null default '',
  removed_at timestamptz
);
create table dashboard_revision (
  dashboard_id int not null references dashboard on delete cascade,
  revision int not null,
  document jsonb not null,
  changed_at timestamptz not null,
  changed_by text not null,
  primary key (dashboard_id, revision)
);
create table dashboard_star (
  account_id int not null references account on delete cascade,
  dashboard_id int not null references dashboard on delete cascade,
  primary key (account_id, dashboard_id)
);
