"""What can be done with builds and plans. One mutation per function, with its checks, transaction and record."""
