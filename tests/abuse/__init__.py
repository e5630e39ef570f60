"""What the store and the server must stand: bounded in ``make test``, whole and with figures in ``make abuse``."""
