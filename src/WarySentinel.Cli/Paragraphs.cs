using Spectre.Console;

namespace WarySentinel.Cli;

/// <summary>Texts of several lines that keep their place beneath what they belong to.</summary>
internal static class Paragraphs
{
    private const int Narrowest = 20;

    /// <summary>Writes a text so far to the right, however many lines it takes. A word that is longer than a line stands on one of its own.</summary>
    public static void Hang(this IAnsiConsole to, int indent, string text, string style = "default")
    {
        var width = Math.Max(Narrowest, to.Profile.Width - indent - 1);
        var line = "";
        foreach (var word in text.Split(' '))
        {
            if (line.Length > 0 && line.Length + 1 + word.Length > width)
            {
                Write(line);
                line = "";
            }

            line += (line.Length > 0 ? " " : "") + word;
        }

        Write(line);

        void Write(string said) => to.MarkupLine($"{new string(' ', indent)}[{style}]{Markup.Escape(said)}[/]");
    }
}
