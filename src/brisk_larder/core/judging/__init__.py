"""What is to be done with a packet: one verdict, the schools of deciding, may it be eaten."""
