"""What a check has to say, a file each; found by the list they put themselves on."""
