-- Names that other systems take for one (sigma at the end of a word, micro, the dotless i) are one place. Two documents that were filed so
-- before stay where they are.
UPDATE OR IGNORE documents SET place_key = place_key(folder, name)
WHERE state = 'filed' AND place_key <> place_key(folder, name);
