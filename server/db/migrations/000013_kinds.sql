-- Which kinds of source there are is said in one place, core/sources/kinds. The database holds what is true of all of
-- them: a device's settings belong to those that are devices.
alter table source drop constraint source_kind_check, add constraint source_kind_check check (char_length(kind) between 1 and 60);
alter table source drop constraint source_device_check, add constraint source_device_check check ((device is not null) = (kind not in ('this-machine', 'pull', 'push', 'collector')));
