"""Days in the ground: windows of sowing, the year outdoors, frosts, sowings one after the other."""
