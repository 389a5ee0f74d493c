# Flags for our own code; libraries' headers come in as system headers.
add_library(dreskel_options INTERFACE)
target_compile_options(dreskel_options INTERFACE -Wall -Wextra -Wconversion -Wshadow -fno-omit-frame-pointer)
if(DRESKEL_WERROR)
    target_compile_options(dreskel_options INTERFACE -Werror)
endif()
if(DRESKEL_SANITIZE)
    # A null pointer is found by its crash, and where others lead by the address sanitizer; looking at each of them
    # costs a third of the compiler's time.
    add_compile_options(-fsanitize=${DRESKEL_SANITIZE} -fno-sanitize=null,object-size,vptr,pointer-overflow
        -fno-sanitize-recover=all)
    add_link_options(-fsanitize=${DRESKEL_SANITIZE})
endif()

# The many test programs are linked in half the time.
find_program(DRESKEL_GOLD ld.gold)
if(DRESKEL_GOLD AND CMAKE_CXX_COMPILER_ID STREQUAL GNU)
    add_link_options(-fuse-ld=gold)
endif()

find_program(DRESKEL_CCACHE ccache)
if(DRESKEL_CCACHE)
    set(CMAKE_CXX_COMPILER_LAUNCHER ${DRESKEL_CCACHE})
endif()

# Files that read the same large headers, compiled several at a time: a fresh build of the programs takes half as long.
# Off, one file that was changed is compiled alone. Names without linkage must differ within a target.
option(DRESKEL_TOGETHER "Compile files of the programs several at a time" ON)
function(dreskel_together target)
    set_target_properties(${target} PROPERTIES UNITY_BUILD ${DRESKEL_TOGETHER} UNITY_BUILD_BATCH_SIZE 7)
endfunction()

# Code that waits for people and drives the rest is not worth the compiler's time.
function(dreskel_not_hot target)
    if(DRESKEL_SANITIZE)
        target_compile_options(${target} PRIVATE -O0)
    elseif(CMAKE_BUILD_TYPE STREQUAL Release)
        target_compile_options(${target} PRIVATE -O1)
    endif()
endfunction()

# One part of the core, as a target of its own that sees only what it is linked with. DRIVES: it drives others and
# writes down what they found, and is not hot itself. What most files of a kind of part read is compiled once, by the
# first part of the kind; the fuzz preset builds without, so that no file can forget an include.
function(dreskel_part name)
    cmake_parse_arguments(PART "DRIVES" "" "SOURCES;LINKS;PRIVATE_LINKS" ${ARGN})
    add_library(dreskel_${name} STATIC ${PART_SOURCES})
    target_include_directories(dreskel_${name} PUBLIC ${CMAKE_SOURCE_DIR}/core)
    target_link_libraries(dreskel_${name} PUBLIC ${PART_LINKS} PRIVATE dreskel_options ${PART_PRIVATE_LINKS})
    set(headers <algorithm> <array> <chrono> <cstdint> <deque> <filesystem> <functional> <map> <memory> <mutex>
        <optional> <set> <span> <string> <string_view> <thread> <vector>)
    if(PART_DRIVES)
        dreskel_not_hot(dreskel_${name})
        list(APPEND headers <nlohmann/json.hpp>)
    endif()
    dreskel_together(dreskel_${name})
    get_property(maker GLOBAL PROPERTY DRESKEL_HEADERS_${PART_DRIVES})
    if(maker)
        target_precompile_headers(dreskel_${name} REUSE_FROM ${maker})
    else()
        target_precompile_headers(dreskel_${name} PRIVATE ${headers})
        set_property(GLOBAL PROPERTY DRESKEL_HEADERS_${PART_DRIVES} dreskel_${name})
    endif()
endfunction()
