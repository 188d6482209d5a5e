using Spectre.Console;

namespace WarySentinel.Cli;

/// <summary>What is shown first, then asked for, then stored.</summary>
internal static class Asking
{
    /// <summary>Whether what was shown is to be stored; <c>--yes</c> shows nothing and asks nothing.</summary>
    public static async Task<bool> AgreesAsync(Call call, bool yes, object shown, Action<IAnsiConsole> show)
    {
        if (yes)
        {
            return true;
        }

        if (call.Out.IsJson)
        {
            throw new UsageException("With --json nothing can be asked; say --yes or --dry-run.");
        }

        call.Out.Give(shown, show);
        if (Typed.Agrees("Store this?"))
        {
            return true;
        }

        await Console.Error.WriteLineAsync("wary: nothing is stored. --yes stores without asking.");
        return false;
    }
}
