"""Glue (F8): the instrument along time, the joint in hand, its gates and its clock."""
