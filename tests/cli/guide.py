"""The program that docs/library.md tells in pieces: guide.py GUIDE PROGRAM. Lines of #include and using come before main."""
import re
import sys

guide, program = sys.argv[1:]
with open(guide, encoding="utf8") as f:
    pieces = re.findall(r"```cpp\n(.*?)```", f.read(), re.S)
assert len(pieces) > 5, "the guide has no program in it"
with open(program, "w", encoding="utf8") as f:
    f.write(pieces[0] + "\nint main() {\n" + "\n".join(pieces[1:]) + "}\n")
