"""What commands answer to programs: a module each, with the shape of the answer and how it is made. Their
JSON Schemas are published; keys stay."""
