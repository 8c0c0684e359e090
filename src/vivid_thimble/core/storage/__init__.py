"""What is written and read again: projects and their versions, kept results, materials at hand, files that
come in.
"""
