create table rule (
  id int generated always as identity primary key,
  name text not null check (char_length(name) between 1 and 200),
  reading jsonb not null,
  compare text not null check (compare in ('above', 'below')),
  limit_value float8 not null,
  must_last_seconds int not null check (must_last_seconds between 0 and 604800),
  stays_raised_seconds int not null check (stays_raised_seconds between 0 and 604800),
  severity text not null check (severity in ('notice', 'urgent')),
  is_on boolean not null default true,
  created_by int references account on delete set null,
  created_at timestamptz not null default now()
);

-- An incident keeps what it needs to be told after its rule has gone.
create table incident (
  id bigint generated always as identity primary key,
  rule_id int references rule on delete set null,
  rule_name text not null,
  severity text not null,
  tags jsonb not null,
  compare text not null,
  limit_value float8 not null,
  unit text not null,
  raised_at_ms bigint not null,
  cleared_at_ms bigint check (cleared_at_ms >= raised_at_ms),
  value float8 not null,
  furthest float8 not null
);
create index incident_time on incident (raised_at_ms);
create index incident_open on incident (id) where cleared_at_ms is null;

-- Where each line of a rule stands, so that a restart goes on where it was.
create table rule_line (
  rule_id int not null references rule on delete cascade,
  line text not null, -- the line's tags as canonical text
  mode text not null check (mode in ('quiet', 'building', 'raised', 'easing', 'blind')),
  since_ms bigint not null,
  incident_id bigint references incident on delete set null,
  primary key (rule_id, line),
  check (incident_id is null or mode in ('raised', 'easing', 'blind'))
);
