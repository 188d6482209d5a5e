using System.Diagnostics;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Cli.Tests;

public sealed class CliFixture : IAsyncLifetime
{
    public RunningSite Site { get; private set; } = null!;

    public async ValueTask InitializeAsync() => Site = await RunningSite.StartAsync();

    public ValueTask DisposeAsync() => Site.DisposeAsync();
}

/// <summary>The command line on a site that the tests of one class share.</summary>
public abstract class OnCli(CliFixture fixture) : IClassFixture<CliFixture>
{
#pragma warning disable CA1051 // read by every test
    protected readonly RunningSite site = fixture.Site;
#pragma warning restore CA1051

    protected Task<(int Exit, string Out, string Error)> RunAsync(params string[] words) => RunAsync(words, null);

    protected Task<(int Exit, string Out, string Error)> RunAsync(string[] words, string? input) => Wary.RunAsync(site, words, input);
}

/// <summary>Runs <c>wary</c> as a process.</summary>
internal static class Wary
{
    public static async Task<(int Exit, string Out, string Error)> RunAsync(RunningSite site, string[] words, string? input, string language = "C.UTF-8")
    {
        var start = new ProcessStartInfo(Path.Combine(AppContext.BaseDirectory, "wary"), words)
        {
            RedirectStandardOutput = true, RedirectStandardError = true, RedirectStandardInput = true,
            Environment = { ["WARY_URL"] = site.Admin, ["WARY_TOKEN"] = site.Token, ["XDG_CONFIG_HOME"] = "/nonexistent", ["LC_ALL"] = language },
        };
        using var process = Process.Start(start)!;
        await process.StandardInput.WriteAsync(input);
        process.StandardInput.Close();
        var (output, error) = (process.StandardOutput.ReadToEndAsync(), process.StandardError.ReadToEndAsync());
        await process.WaitForExitAsync();
        return (process.ExitCode, await output, await error);
    }
}
