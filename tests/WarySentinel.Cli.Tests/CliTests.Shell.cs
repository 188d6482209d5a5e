using System.Diagnostics;
using Shouldly;
using Xunit;

namespace WarySentinel.Cli.Tests;

/// <summary>Backups, completion and the manual page, on the command line.</summary>
public sealed partial class CliTests
{
    [Fact]
    public async Task A_backup_goes_into_an_empty_folder_and_a_broken_one_nowhere()
    {
        var folder = Directory.CreateTempSubdirectory("wary-backup-").FullName;
        try
        {
            var (file, cut, put) = (Path.Combine(folder, "b.tar.gz"), Path.Combine(folder, "cut.tar.gz"), Path.Combine(folder, "data"));
            (await RunAsync("backup", file, "--files")).Out.ShouldContain("Keep it where nobody else reads it");
            File.GetUnixFileMode(file).ShouldBe(UnixFileMode.UserRead | UnixFileMode.UserWrite);
            (await RunAsync("restore", file, "--data", folder)).ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(2), r => r.Error.ShouldContain("is not empty"));
            (await RunAsync("restore", file, "--data", put)).Exit.ShouldBe(0);
            File.ReadAllBytes(Path.Combine(put, "sentinel.db")).AsSpan(0, 15).SequenceEqual("SQLite format 3"u8).ShouldBeTrue();
            File.Exists(Path.Combine(put, "secret.key")).ShouldBeTrue();
            var whole = await File.ReadAllBytesAsync(file, TestContext.Current.CancellationToken);
            foreach (var length in new[] { 0, 1, 20, whole.Length / 2, whole.Length - 300 })
            {
                await File.WriteAllBytesAsync(cut, whole[..length], TestContext.Current.CancellationToken);
                var broken = await RunAsync("restore", cut, "--data", Path.Combine(folder, "none"));
                (broken.Exit, Directory.Exists(Path.Combine(folder, "none"))).ShouldBe((2, false), $"{length} of {whole.Length}: {broken.Out}{broken.Error}");
            }
        }
        finally
        {
            Directory.Delete(folder, true);
        }
    }

    [Theory]
    [InlineData("wary gat", "gate")]
    [InlineData("wary gate s", "set show")]
    [InlineData("wary completion f", "fish")]
    public async Task Bash_completes_commands(string line, string wanted)
    {
        var words = line.Split(' ');
        var script = $"""
            PATH="{AppContext.BaseDirectory}:$PATH"
            . <(wary completion bash)
            COMP_LINE="{line}" COMP_POINT={line.Length} COMP_WORDS=({line}) COMP_CWORD={words.Length - 1}
            _wary
            echo "${'{'}COMPREPLY[*]{'}'}"
            """;
        using var bash = Process.Start(new ProcessStartInfo("bash", ["-c", script]) { RedirectStandardOutput = true })!;
        (await bash.StandardOutput.ReadToEndAsync(TestContext.Current.CancellationToken)).Trim().ShouldBe(wanted);
    }

    [Fact]
    public async Task The_manual_page_has_every_command_and_nothing_else_is_help()
    {
        var page = (await RunAsync("man")).Out;
        foreach (var command in new[] { ".SS wary gate add", ".SS wary price quote", ".SS wary sweep", ".SS wary restore" })
        {
            page.ShouldContain(command);
        }

        page.Split('\n').Where(l => l.StartsWith('\'')).ShouldBeEmpty();
        (await RunAsync()).ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(0), r => r.Out.ShouldContain("Usage:"));
        (await RunAsync("completion", "tcsh")).Exit.ShouldBe(2);
    }
}
