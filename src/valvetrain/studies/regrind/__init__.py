"""The largest lobe that can be ground from the present one."""
