"""What checks say: findings with their working, problems, and the worst of many load cases."""
