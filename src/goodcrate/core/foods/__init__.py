"""What foods are made of: their facts, labels, measures, keeping groups. Imports ground."""
