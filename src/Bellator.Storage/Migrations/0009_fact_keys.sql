-- Keys of facts files got the names that the field has for what they say. What a review has stated is written with them from now on.
DO $$
DECLARE
  pair text[];
BEGIN
  FOREACH pair SLICE 1 IN ARRAY ARRAY[
    ['acts', 'journeySteps'],
    ['andMore', 'variadic'],
    ['answers', 'returnsResponse'],
    ['carries', 'storesArgument'],
    ['chosen', 'projection'],
    ['chosenAt', 'projectionAt'],
    ['clean', 'sanitizes'],
    ['cleanIf', 'sanitizesIf'],
    ['feed', 'update'],
    ['finish', 'digest'],
    ['flip', 'valuesToKeys'],
    ['grow', 'appendsText'],
    ['keeps', 'copiesFields'],
    ['keepsUnless', 'copiesFieldsUnless'],
    ['lifts', 'removes'],
    ['onTheWay', 'middleware'],
    ['own', 'allocates'],
    ['pass', 'propagates'],
    ['pick', 'selectKeys'],
    ['randoms', 'randomness'],
    ['refusedBy', 'validatedBeforeCall'],
    ['reopen', 'unsafeAgain'],
    ['stands', 'guards'],
    ['stops', 'noReturn'],
    ['strip', 'removesMatches'],
    ['tracked', 'savesChanges'],
    ['same', 'returnsArgument']
  ] LOOP
    UPDATE review_fact SET facts = regexp_replace(facts, '(^|[{,\n])(\s*)' || pair[1] || ':', '\1\2' || pair[2] || ':', 'g') WHERE length(facts) < 12000 AND facts ~ ('(^|[{,\n])\s*' || pair[1] || ':');
  END LOOP;
END $$;
