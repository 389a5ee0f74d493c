// What the worker may do: read from the source it was given, answer on its socket, use some memory. Nothing
// else, whatever a file makes a library do.
#pragma once

namespace dreskel {

// Ends with its parent; cannot fill the memory, write or open a file, connect anywhere or start a program.
// False when the kernel refuses the filter; the other bounds hold then all the same. Libraries must have
// loaded what they need before.
bool confine();

}  // namespace dreskel
