"""What every list and table can do: be filtered as one types, sorted, copied and saved."""
