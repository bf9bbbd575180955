"""What works behind the window: background work, pictures, the planner's process, instruments, dialogs."""
