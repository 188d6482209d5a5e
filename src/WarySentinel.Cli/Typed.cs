namespace WarySentinel.Cli;

/// <summary>Reads what must not stand on the command line.</summary>
internal static class Typed
{
    /// <summary>A secret from the terminal, unseen, or one line from a pipe.</summary>
    public static string Secret(string prompt)
    {
        if (Console.IsInputRedirected)
        {
            return Console.In.ReadLine() ?? "";
        }

        Console.Error.Write(prompt);
        var built = new System.Text.StringBuilder();
        while (Console.ReadKey(true) is { Key: not ConsoleKey.Enter } key)
        {
            if (key.Key == ConsoleKey.Backspace && built.Length > 0)
            {
                built.Length--;
            }
            else if (!char.IsControl(key.KeyChar))
            {
                built.Append(key.KeyChar);
            }
        }

        Console.Error.WriteLine();
        return built.ToString();
    }

    /// <summary>Asks a question that is answered by yes or no; from a pipe the answer is no.</summary>
    public static bool Agrees(string question)
    {
        if (Console.IsInputRedirected)
        {
            return false;
        }

        Console.Error.Write(question + " [y/N] ");
        return Console.ReadLine()?.Trim() is "y" or "Y" or "yes";
    }
}
