-- What people say of a shot, of a frame of it, or of a point of a frame; and answers to that.

create table comments (
    id          bigint generated always as identity primary key,
    shot_id     bigint not null references shots on delete cascade,
    -- what it answers; an answer is open or resolved with that
    answers     bigint references comments on delete cascade,
    person_id   bigint references people default acting_person(),
    text        text not null check (length(text) between 1 and 4000),
    frame       integer,
    -- in pixels of the shot at full size
    x           double precision,
    y           double precision,
    -- what was seen when it was said, and when it was resolved
    revision    integer not null,
    resolved_at timestamptz,
    resolved_by bigint references people,
    resolved_in integer,
    created_at  timestamptz not null default now(),
    changed_at  timestamptz,
    foreign key (shot_id, revision) references revisions (shot_id, number),
    check ((x is null) = (y is null) and (x is null or frame is not null)),
    check (answers is null or (frame is null and resolved_at is null)),
    check ((resolved_at is null) = (resolved_in is null))
);
create index comments_of_shot on comments (shot_id, id);
create trigger comments_change after insert or update or delete on comments for each row
    execute function note_change('created_at', 'changed_at', 'x', 'y', 'revision');
