"""Requests and answers: errors, fields, bodies, ranges. Every app stands on this."""
