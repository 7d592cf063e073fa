"""What a delivery must meet: the document, the check, targets to start from."""
