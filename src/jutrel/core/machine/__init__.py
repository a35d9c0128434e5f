"""What a machine is: family, model and unit, its stations, its checkpoints and its drawing."""
