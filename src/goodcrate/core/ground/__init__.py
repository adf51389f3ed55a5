"""What every stage stands on: compositions, tallies, amounts, typed text, errors, finding. Imports nothing of ours."""
