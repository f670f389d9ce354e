# One target a folder. A target sees only its own headers and those of the folders it lists, because each
# folder's include root holds one single link, to that folder: `#include "rail/network.h"` does not compile in a
# target that does not list `rail`.

add_library(ustor_flags INTERFACE)
# The warnings are GCC's; clang builds the fuzzer only.
if(CMAKE_CXX_COMPILER_ID STREQUAL "GNU")
  target_compile_options(ustor_flags INTERFACE
    -Wall -Wextra -Wpedantic -Wshadow=local -Wconversion -Wno-sign-conversion -Wnon-virtual-dtor -Werror)
endif()
if(USTOR_SANITIZE)
  target_compile_options(ustor_flags INTERFACE -fsanitize=address,undefined -fno-omit-frame-pointer
    -fno-sanitize-recover=undefined)
  target_link_options(ustor_flags INTERFACE -fsanitize=address,undefined)
  if(CMAKE_CXX_COMPILER_ID STREQUAL "GNU") # instrumented code makes GCC 12 see ghosts in <functional>
    target_compile_options(ustor_flags INTERFACE -Wno-maybe-uninitialized)
  endif()
endif()
if(USTOR_FUZZ)
  target_compile_options(ustor_flags INTERFACE -fsanitize=fuzzer-no-link)
endif()

# ustor_library(NAME USES target... SOURCES file...)
function(ustor_library name)
  cmake_parse_arguments(A "" "" "USES;SOURCES" ${ARGN})
  add_library(ustor_${name} STATIC ${A_SOURCES})
  set(root ${CMAKE_BINARY_DIR}/include/${name})
  file(MAKE_DIRECTORY ${root})
  file(CREATE_LINK ${CMAKE_CURRENT_SOURCE_DIR} ${root}/${name} SYMBOLIC)
  target_include_directories(ustor_${name} PUBLIC ${root})
  target_link_libraries(ustor_${name} PUBLIC ${A_USES} PRIVATE ustor_flags)
endfunction()

# ustor_program(NAME USES target... SOURCES file...): an executable that may include what it lists.
function(ustor_program name)
  cmake_parse_arguments(A "" "" "USES;SOURCES" ${ARGN})
  add_executable(${name} ${A_SOURCES})
  target_link_libraries(${name} PRIVATE ${A_USES} ustor_flags)
endfunction()
