// The numbers that VP9 begins with (10.5).
#pragma once

#include "formats/vp9/chances.h"

namespace dreskel::vp9 {

extern const Chances kUsualChances;
// Of pictures that build on no other: by the modes above and on the left, by that of luma, by what is known
// of neighbours.
extern const Grid<10, 10, 9> kKeyLumaModes;
extern const Grid<10, 9> kKeyChromaModes;
extern const Grid<16, 3> kKeyPartitions;
// Of coefficients above one, by how probable one is (from 1 on).
extern const Grid<255, 8> kLargeValues;

}  // namespace dreskel::vp9
