-- Tokens that stand in the address of a feed of incidents, and open nothing else.
alter table token drop constraint token_scope_check, add constraint token_scope_check check (scope in ('write', 'read', 'manage', 'calendar', 'feed'));
