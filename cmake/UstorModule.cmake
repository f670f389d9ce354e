# One target a folder. A target sees only its own headers and those of the folders it lists, because each
# folder's include root holds one single link, to that folder: `#include "rail/network.h"` does not compile in a
# target that does not list `rail`.

add_library(ustor_flags INTERFACE)
# The warnings are GCC's; clang builds the fuzzer only.
if(CMAKE_CXX_COMPILER_ID STREQUAL "GNU")
  target_compile_options(ustor_flags INTERFACE
    -Wall -Wextra -Wpedantic -Wshadow=local -Wconversion -Wno-sign-conversion -Wnon-virtual-dtor -Winvalid-pch -Werror
    -fpch-preprocess
    # Its own waste is collected later: with sixteen sources together that is a tenth of the time, for little memory.
    "SHELL:--param ggc-min-heapsize=600000"
    # GCC 12 sees these ghosts in its own <string> (its bugs 105329, 105651 and their kin), and tells of them once that is
    # precompiled; what they are for is found by the sanitizers.
    -Wno-array-bounds -Wno-restrict -Wno-stringop-overflow -Wno-stringop-overread)
endif()
if(USTOR_SANITIZE)
  target_compile_options(ustor_flags INTERFACE -fsanitize=address,undefined -fno-omit-frame-pointer
    -fno-sanitize-recover=undefined)
  target_link_options(ustor_flags INTERFACE -fsanitize=address,undefined)
  if(CMAKE_CXX_COMPILER_ID STREQUAL "GNU")
    # Instrumented code makes GCC 12 see ghosts in <functional>. What is asked before every access through a pointer
    # takes a third of the build, and the address sanitizer stops at the same accesses; clang asks it in the fuzzer.
    target_compile_options(ustor_flags INTERFACE -Wno-maybe-uninitialized
      -fno-sanitize=null,alignment,vptr,object-size)
  endif()
endif()
if(USTOR_FUZZ)
  target_compile_options(ustor_flags INTERFACE -fsanitize=fuzzer-no-link)
endif()

# Headers of others that a whole folder includes are read once: they take more of a build than our own code. None of
# ours is among them, and none that a folder could not include by itself.
set(USTOR_STANDARD_HEADERS <algorithm> <array> <cmath> <filesystem> <functional> <map> <memory> <optional> <set>
  <string> <string_view> <utility> <variant> <vector>)
function(ustor_precompile name headers from)
  if(headers)
    target_precompile_headers(${name} PRIVATE ${USTOR_STANDARD_HEADERS} ${headers})
  elseif(from)
    target_precompile_headers(${name} REUSE_FROM ${from})
  endif()
endfunction()

# A source with a loop that the compiler should take many values at once in. Precompiled headers bring the optimization
# they were compiled with, and in one source with others it has no options of its own: so neither.
function(ustor_vectorise source)
  set_source_files_properties(${source} PROPERTIES COMPILE_OPTIONS -O3 SKIP_PRECOMPILE_HEADERS ON)
endfunction()

# For folders that compute; most wait for people, files and instruments, and are compiled in two thirds of the time
# without what this adds. Before their targets; whoever reuses their precompiled headers says it as well.
macro(ustor_with_loops)
  if(NOT USTOR_SANITIZE)
    add_compile_options($<$<CONFIG:RelWithDebInfo>:-O2>)
  endif()
endmacro()

# ustor_library(NAME USES target... SOURCES file... [PRECOMPILE header... | PRECOMPILED_BY target])
function(ustor_library name)
  cmake_parse_arguments(A "" "PRECOMPILED_BY" "USES;SOURCES;PRECOMPILE" ${ARGN})
  add_library(ustor_${name} STATIC ${A_SOURCES})
  set(root ${CMAKE_BINARY_DIR}/include/${name})
  file(MAKE_DIRECTORY ${root})
  file(CREATE_LINK ${CMAKE_CURRENT_SOURCE_DIR} ${root}/${name} SYMBOLIC)
  target_include_directories(ustor_${name} PUBLIC ${root})
  target_link_libraries(ustor_${name} PUBLIC ${A_USES} PRIVATE ustor_flags)
  ustor_precompile(ustor_${name} "${A_PRECOMPILE}" "${A_PRECOMPILED_BY}")
endfunction()

# ustor_program(NAME USES target... SOURCES file... [PRECOMPILED_BY target]): an executable that may include what it lists.
function(ustor_program name)
  cmake_parse_arguments(A "" "PRECOMPILED_BY" "USES;SOURCES" ${ARGN})
  add_executable(${name} ${A_SOURCES})
  target_link_libraries(${name} PRIVATE ${A_USES} ustor_flags)
  ustor_precompile(${name} "" "${A_PRECOMPILED_BY}")
endfunction()
