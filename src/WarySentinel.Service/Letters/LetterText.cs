using System.Text;
using AngleSharp.Dom;
using AngleSharp.Html.Parser;

namespace WarySentinel.Service.Letters;

/// <summary>The plain text of a letter, made from its HTML: for programs that show no HTML, and for who reads it aloud.</summary>
public static class LetterText
{
    private const string Quoted = "> ";
    private static readonly HtmlParser Parser = new();
    private static readonly string[] Blocks =
        ["P", "DIV", "H1", "H2", "H3", "H4", "UL", "OL", "LI", "TABLE", "TR", "BLOCKQUOTE", "SECTION", "HR", "PRE", "DL", "DT", "DD"];

    /// <summary>The text of a piece of HTML.</summary>
    public static string Of(string html)
    {
        var body = Parser.ParseDocument("<!doctype html><body>" + html).Body!;
        var lines = new StringBuilder();
        Write(body, lines, "");
        return string.Join("\n\n", lines.ToString().Split('\f', StringSplitOptions.RemoveEmptyEntries).Select(Tidy).Where(b => b.Length > 0)) + "\n";
    }

    private static void Write(INode node, StringBuilder to, string before)
    {
        foreach (var child in node.ChildNodes)
        {
            switch (child)
            {
                case IText text:
                    to.Append(Folded(text.Data));
                    break;
                case IElement { LocalName: "script" or "style" or "head" or "title" }:
                    break;
                case IElement { LocalName: "br" }:
                    to.Append('\n').Append(before);
                    break;
                case IElement { LocalName: "a" } link:
                    Link(link, to, before);
                    break;
                case IElement { LocalName: "img" } picture:
                    to.Append(picture.GetAttribute("alt"));
                    break;
                case IElement { LocalName: "blockquote" } quote:
                    to.Append('\f').Append(before).Append(Quoted);
                    Write(quote, to, before + Quoted);
                    to.Append('\f');
                    break;
                case IElement { LocalName: "li" } entry:
                    to.Append('\n').Append(before).Append("- ");
                    Write(entry, to, before);
                    break;
                case IElement block when Blocks.Contains(block.TagName):
                    to.Append('\f').Append(before);
                    Write(block, to, before);
                    to.Append('\f');
                    break;
                case IElement inline:
                    Write(inline, to, before);
                    break;
            }
        }
    }

    /// <summary>Words and address; the address alone where the words are the same.</summary>
    private static void Link(IElement link, StringBuilder to, string before)
    {
        var (words, address) = (Folded(link.TextContent).Trim(), link.GetAttribute("href") ?? "");
        to.Append(words);
        if (address.Length > 0 && address != words)
        {
            to.Append(":\n").Append(before).Append(address);
        }
    }

    private static string Folded(string text)
    {
        var folded = new StringBuilder(text.Length);
        foreach (var c in text)
        {
            if (!char.IsWhiteSpace(c) || c == '\u00a0')
            {
                folded.Append(c);
            }
            else if (folded.Length == 0 || folded[^1] != ' ')
            {
                folded.Append(' ');
            }
        }

        return folded.ToString();
    }

    private static string Tidy(string block) =>
        string.Join('\n', block.Split('\n').Select(l => l.Trim(' '))).Trim('\n', ' ') is var tidy && tidy.Trim('>', ' ').Length == 0 ? "" : tidy;
}
