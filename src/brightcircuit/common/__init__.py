"""What every app of the application shares: who acts, what they may, files in and out, numbers, the
guard of an open job."""
