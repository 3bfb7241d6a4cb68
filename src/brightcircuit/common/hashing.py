"""How passwords are stored: Argon2id with settings that a shop's small server bears.

Django's own settings take 100 MB for each sign-in; a workshop that signs in at eight in the morning
took 800 MB at once. These are what the OWASP Password Storage Cheat Sheet gives for Argon2id:
19 MiB, two passes, one lane. A password stored with other settings is stored anew at its next
sign-in.
"""

from django.contrib.auth.hashers import Argon2PasswordHasher


class ShopHasher(Argon2PasswordHasher):
    """Argon2id, 19 MiB and two passes (OWASP Password Storage Cheat Sheet)."""

    time_cost = 2
    memory_cost = 19 * 1024
    parallelism = 1
