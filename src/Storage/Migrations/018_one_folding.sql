-- Words of pages are folded as values of fields are: "Oresund", "Lodz" and "Strasse" find the same in both. What is written in ASCII alone
-- folds alike either way and stays.
UPDATE document_text SET body = folded(body), restricted = folded(restricted)
WHERE body GLOB '*[^' || char(1) || '-~]*' OR restricted GLOB '*[^' || char(1) || '-~]*';
