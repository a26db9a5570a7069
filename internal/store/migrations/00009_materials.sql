-- +goose Up
-- What a boiler is made of is kept of each boiler apart: the one value of before holds for
-- all that the layout has.
UPDATE settings SET facts = json_set(facts, '$.brew_material', replace(facts ->> '$.boiler_material', ' ', '_'))
  WHERE facts ->> '$.boiler_material' IS NOT NULL;
UPDATE settings SET facts = json_set(facts, '$.steam_material', facts ->> '$.brew_material')
  WHERE facts ->> '$.boiler_material' IS NOT NULL
    AND layout IN ('hx_home', 'hx_cafe', 'dual_home', 'multi_cafe', 'lever_cam');
UPDATE settings SET facts = json_remove(facts, '$.boiler_material')
  WHERE facts ->> '$.boiler_material' IS NOT NULL;
