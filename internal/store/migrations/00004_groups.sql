-- +goose Up
-- A plan may be for several groups: what was said once, of its one group, is
-- said of each of its parts.
UPDATE runs SET plan = json_set(plan, '$.version', 2, '$.duty', json('{"On":0,"Off":0}'), '$.flow', 0, '$.parts', json_array(json_object(
  'group',  json(plan -> '$.group'),
  'dirty',  json(plan -> '$.dirty'),
  'gone',   json(plan -> '$.gone'),
  'task',   json(plan -> '$.task'),
  'method', json(plan -> '$.method'),
  'title',  json(plan -> '$.title'),
  'dose',   json(coalesce(plan -> '$.dose', 'null')),
  'rinse',  json(plan -> '$.rinse'),
  'more',   json(plan -> '$.more'))));

-- +goose Down
UPDATE runs SET plan = json_remove(plan, '$.parts', '$.duty', '$.flow');
