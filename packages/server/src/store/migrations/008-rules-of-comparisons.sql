-- How a source was worked out of others is part of the recipe; of comparisons it stood with the source. A null, for "by where they lie", is
-- left out by json_patch, which means the same. What is damaged stays as it is.
CREATE TEMP TABLE ruled AS
SELECT s.crossing, json_object('sources', json_group_object(s.name, json_object('workedOut',
    json_patch(json_object('by', 'comparison'), json_extract(s.facts, '$.compared'))))) AS patch
FROM (SELECT crossing, name, CASE WHEN json_valid(facts) THEN facts ELSE '{}' END AS facts FROM sources) s
JOIN (SELECT id, CASE WHEN json_valid(recipe) THEN recipe ELSE '{}' END AS recipe FROM crossings) c ON c.id = s.crossing
WHERE json_type(s.facts, '$.compared') = 'object'
  AND EXISTS (SELECT 1 FROM json_each(c.recipe, '$.sources') r WHERE r.key = s.name)
GROUP BY s.crossing;

UPDATE crossings SET recipe = json_patch(recipe, (SELECT patch FROM ruled WHERE crossing = crossings.id))
WHERE id IN (SELECT crossing FROM ruled);

DROP TABLE ruled;
