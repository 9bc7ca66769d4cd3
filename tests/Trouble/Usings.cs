global using Xunit;
using Xunit.v3;

// The application is told its data folder by the environment of the process, so that one is filled at a time.
[assembly: Parallelization(Mode = Xunit.Sdk.ParallelMode.None)]
