-- Renders: what was ordered, and how far each is. The queue holds the work, this table what people see of it.

create table renders (
    id         bigint generated always as identity primary key,
    shot_id    bigint not null references shots on delete cascade,
    revision   integer not null,
    frames     integer[] not null check (cardinality(frames) > 0),
    folder     text not null,
    file_name  text not null,
    pixel_type text not null,
    upto       text,
    matte      text,
    state      text not null default 'queued'
               check (state in ('queued', 'running', 'done', 'failed', 'cancelled')),
    cancel     boolean not null default false,
    error      json,
    job        bigint,
    created_at timestamptz not null default now(),
    changed_at timestamptz not null default now(),
    foreign key (shot_id, revision) references revisions (shot_id, number)
);
create index renders_of_shot on renders (shot_id, id desc);

-- one row a finished frame, so that a killed render goes on where it was
create table render_frames (
    render_id  bigint not null references renders on delete cascade,
    frame      integer not null,
    seconds    double precision not null,
    bytes      bigint not null,
    primary key (render_id, frame)
);
