-- Renders may write several mattes, packed in one way or another, and so several files a frame.

alter table renders add column mattes text[] not null default '{}';
alter table renders add column pack text check (pack in ('single', 'rgb', 'rgba', 'named', 'baked'));
update renders set mattes = array[matte], pack = 'single' where matte is not null;
alter table renders drop column matte;
alter table renders add constraint mattes_have_a_way check ((cardinality(mattes) > 0) = (pack is not null));

-- what was written of a frame, as file names in the render's folder; null: the one its pattern gives
alter table render_frames add column files text[];
