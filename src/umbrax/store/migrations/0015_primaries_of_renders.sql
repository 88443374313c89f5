-- Which primaries the frames of a render are written in.

alter table renders add column space text not null default 'lin_rec709' check (space in ('lin_rec709', 'lin_ap1'));
