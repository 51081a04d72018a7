-- Events of a window are found by their span, and those of a kind by themselves, however many there are before.
create index event_span on event using gist (int8range(from_ms, to_ms, '[]'));
create index event_kind on event (kind, from_ms);
