-- What people call IDs in a show: shown beside the name in the file, which documents keep.

create table called (
    show_id bigint not null references shows on delete cascade,
    id      bigint not null check (id between 1 and 4294967295),
    name    text   not null check (length(name) between 1 and 200),
    primary key (show_id, id)
);
