"""What several methods share: stages of runs, the comparison, answers, cautions."""
