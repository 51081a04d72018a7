-- Each of several servers writes segments of the journal of its own. `fence` is the number by which their rows are let in
-- just now: the server that leads raises it where no segment may be gone on with. None is let in where it is null.
-- `forgotten` is the fence with which series were forgotten last.
alter table serving add column fence bigint, add column forgotten bigint not null default 0;

-- Samples a second that a server which stands beside has stored itself of late.
alter table beside add column stored real;
