-- Shots and shows that were deleted can be brought back; their names are free meanwhile.

alter table shows add column deleted_at timestamptz;
alter table shots add column deleted_at timestamptz;
alter table shows drop constraint shows_name_key;
alter table shots drop constraint shots_show_id_name_key;
create unique index shows_one_of_a_name on shows (name) where deleted_at is null;
create unique index shots_one_of_a_name on shots (show_id, name) where deleted_at is null;

-- where the relative paths of a shot begin that was moved to another show; null: in the folder of its show
alter table shots add column folder text;

-- a document names its sources itself: a second list of them would only go stale
drop table sources;

-- folders that pictures may be taken from, beside those that the settings of this machine name
create table media_folders (
    path     text primary key check (path like '/%'),
    added_at timestamptz not null default now()
);
