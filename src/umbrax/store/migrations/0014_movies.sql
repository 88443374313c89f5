-- The movie that is made of a render's frames when all of them are there.

alter table renders add column movie text check (movie in ('h264', 'prores_422', 'prores_4444'));
-- frames that are in it so far, and how large it is once it is whole
alter table renders add column joined integer not null default 0;
alter table renders add column movie_bytes bigint;
-- shot, frame and revision are written into its pictures
alter table renders add column caption boolean not null default false;
