"""Small programs in several languages and styles, written out from the facts of a plan, right or with one
thing wrong."""
