"""Item quality: a test judged. Which sittings are looked at (scope), their answers as one table (tables), judged (judged),
and a module for each question that is put to them."""
