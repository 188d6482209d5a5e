using System.Diagnostics;

namespace WarySentinel.Testing;

/// <summary>The command line as a process, against a running site.</summary>
public static class Cli
{
    /// <summary>Runs <c>wary</c>; gives what it printed and its exit code.</summary>
    public static async Task<(string Out, int Exit)> RunAsync(RunningSite site, params string[] arguments)
    {
        var program = Path.Combine(RunningSite.Root, "src", "WarySentinel.Cli", "bin", "Debug", "net10.0", "wary.dll");
        var start = new ProcessStartInfo("dotnet", [program, .. arguments])
        { RedirectStandardOutput = true, Environment = { ["WARY_URL"] = site.Admin, ["WARY_TOKEN"] = site.Token } };
        using var process = Process.Start(start)!;
        var output = await process.StandardOutput.ReadToEndAsync();
        await process.WaitForExitAsync();
        return (output, process.ExitCode);
    }
}
