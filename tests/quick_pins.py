"""PINs hashed in a moment: what a hash costs is the library's, and no test asks for it."""

from argon2 import PasswordHasher

from wisearc.services.people import people

people.HASHER = PasswordHasher(time_cost=1, memory_cost=8, parallelism=1)
