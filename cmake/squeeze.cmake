# Manual pages as packages hold them: each in FOLDER also as .gz, without a time in it.
file(GLOB pages ${FOLDER}/*.1 ${FOLDER}/*.5)
foreach(page IN LISTS pages)
  execute_process(COMMAND ${GZIP} -9nc ${page} OUTPUT_FILE ${page}.gz COMMAND_ERROR_IS_FATAL ANY)
endforeach()
