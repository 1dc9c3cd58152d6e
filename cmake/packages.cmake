# Debian packages by CPack, run as `cpack -G DEB` in the build: the tool, its modules for STEP and for pictures in space, and the
# library. What each holds is said where it is installed (COMPONENT).
configure_file(cmake/debian/changelog.in ${PROJECT_BINARY_DIR}/debian/changelog @ONLY)
execute_process(COMMAND ${GZIP} -9nc ${PROJECT_BINARY_DIR}/debian/changelog OUTPUT_FILE ${PROJECT_BINARY_DIR}/debian/changelog.gz)

set(CPACK_PACKAGE_NAME palio)
set(CPACK_PACKAGE_VENDOR Palio)
set(CPACK_PACKAGE_CONTACT "Palio <founders@palio.example>")
set(CPACK_PACKAGING_INSTALL_PREFIX /usr)
set(CPACK_DEB_COMPONENT_INSTALL ON)
set(CPACK_STRIP_FILES ON)
set(CPACK_DEBIAN_FILE_NAME DEB-DEFAULT)
set(CPACK_DEBIAN_PACKAGE_SHLIBDEPS ON)
set(CPACK_DEBIAN_PACKAGE_GENERATE_SHLIBS ON)
set(CPACK_DEBIAN_PACKAGE_CONTROL_STRICT_PERMISSION ON)

function(palio_package component name section description)
  string(TOUPPER ${component} key)
  set(CPACK_DEBIAN_${key}_PACKAGE_NAME ${name} PARENT_SCOPE)
  set(CPACK_DEBIAN_${key}_PACKAGE_SECTION ${section} PARENT_SCOPE)
  set(CPACK_COMPONENT_${key}_DESCRIPTION "${description}" PARENT_SCOPE)
  install(FILES NOTICE DESTINATION ${CMAKE_INSTALL_DATADIR}/doc/${name} RENAME copyright COMPONENT ${component})
  install(FILES ${PROJECT_BINARY_DIR}/debian/changelog.gz DESTINATION ${CMAKE_INSTALL_DATADIR}/doc/${name} COMPONENT ${component})
endfunction()
palio_package(tool palio science "exact gears from one text file
All dimensions of a gear pair or a machine from one job, proof by rolling the
real teeth, and files to print, mill, cut and inspect them.")
palio_package(step palio-step science "STEP files for palio
A module that the tool loads when a STEP file is asked for.")
palio_package(scene palio-scene science "pictures of solids for palio
A module that the tool loads when a picture or film in space is asked for.")
palio_package(library libpalio-dev libdevel "exact gears as a C++17 library
Headers, static libraries and packages for CMake and pkg-config.")
set(CPACK_COMPONENTS_ALL tool step scene library)
set(CPACK_DEBIAN_TOOL_PACKAGE_RECOMMENDS "palio-step, palio-scene, ffmpeg, xdg-utils")
foreach(key TOOL STEP SCENE)  # shared libraries in the system's folder
  set(CPACK_DEBIAN_${key}_PACKAGE_CONTROL_EXTRA ${PROJECT_SOURCE_DIR}/cmake/debian/triggers)
endforeach()
set(own "palio (= ${PROJECT_VERSION})")
set(CPACK_DEBIAN_STEP_PACKAGE_DEPENDS "${own}")
set(CPACK_DEBIAN_SCENE_PACKAGE_DEPENDS "${own}")
set(CPACK_DEBIAN_LIBRARY_PACKAGE_DEPENDS "${own}, palio-step (= ${PROJECT_VERSION}), palio-scene (= ${PROJECT_VERSION}), libeigen3-dev, libfmt-dev, libboost-math-dev, nlohmann-json3-dev, libtomlplusplus-dev, libmuparser-dev, libtbb-dev, libpugixml-dev, libccd-dev, libcairo2-dev, pkg-config")
include(CPack)
