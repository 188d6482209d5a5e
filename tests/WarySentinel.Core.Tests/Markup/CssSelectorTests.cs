using System.Text;
using AngleSharp.Dom;
using AngleSharp.Html.Parser;
using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using Shouldly;
using WarySentinel.Core.Markup;
using Xunit;

namespace WarySentinel.Core.Tests.Markup;

/// <summary>Selectors as they are met while a page streams by, against a real parser's.</summary>
public sealed class CssSelectorTests
{
    private static readonly string[] Names = ["div", "p", "section", "article", "span"];
    private static readonly string[] Classes = ["card", "grid", "price", "card--wide", "x1"];

    [Property(MaxTest = 3000)]
    public void A_selector_means_the_elements_that_a_browser_finds(int seed)
    {
        var random = new System.Random(seed);
        var page = Element(random, 4);
        var selector = string.Join(", ", Enumerable.Range(0, random.Next(1, 3)).Select(_ => Complex(random)));
        var read = CssSelector.TryParse(selector, out var fault, out _);
        read.ShouldNotBeNull($"{selector}: {fault}");
        var document = new HtmlParser().ParseDocument("<body>" + page);
        var wanted = document.QuerySelectorAll(selector).ToHashSet();
        foreach (var element in document.All)
        {
            read.IsMetAt(MetAt(read, element)).ShouldBe(
                wanted.Contains(element), $"{selector} at {element.OuterHtml[..Math.Min(80, element.OuterHtml.Length)]}");
        }
    }

    private static CssSelector.Met MetAt(CssSelector selector, IElement element) => selector.Next(
        element.ParentElement is { } around ? MetAt(selector, around) : default,
            new TagFacts(element.LocalName, [.. element.Attributes.Select(a => (a.Name, a.Value))]));

    private static string Element(System.Random random, int depth)
    {
        var name = Names[random.Next(Names.Length)];
        // A paragraph holds no boxes.
        name = name == "p" && depth > 0 ? "div" : name;
        var said = new StringBuilder("<" + name);
        if (random.Next(3) > 0)
        {
            var classes = Enumerable.Range(0, random.Next(1, 3)).Select(_ => Classes[random.Next(Classes.Length)]);
            said.Append(" class='").AppendJoin(random.Next(2) == 0 ? " " : "\n", classes).Append('\'');
        }

        said.Append(random.Next(3) == 0 ? " id=i" + random.Next(3) : "");
        said.Append(random.Next(3) > 0 ? "" : random.Next(2) == 0 ? " data-kind=Lens" : " data-kind='lens-wide'").Append('>');
        for (var n = random.Next(4); n > 0 && depth > 0; n--)
        {
            said.Append(Element(random, depth - 1));
        }

        return said.Append("</").Append(name).Append('>').ToString();
    }

    private static string Complex(System.Random random) => string.Join(
        random.Next(2) == 0 ? " " : " > ", Enumerable.Range(0, random.Next(1, 4)).Select(_ => Compound(random)));

    private static string Compound(System.Random random)
    {
        var said = random.Next(2) == 0 ? Names[random.Next(Names.Length)] : random.Next(4) == 0 ? "*" : "";
        for (var n = random.Next(said.Length == 0 ? 1 : 0, 3); n > 0; n--)
        {
            said += random.Next(6) switch
            {
                0 => "#i" + random.Next(3),
                1 => $"[data-kind{new[] { "", "=Lens", "^='le'", "$=wide", "*=ens", "|=lens", "~=Lens", "='lens-WIDE' i" }[random.Next(8)]}]",
                2 => $":not(.{Classes[random.Next(Classes.Length)]})",
                _ => "." + Classes[random.Next(Classes.Length)],
            };
        }

        return said;
    }

    [Theory]
    [InlineData("", "selector-cut-off", 1)]
    [InlineData("div >", "selector-cut-off", 6)]
    [InlineData("a + b", "selector-too-much", 3)]
    [InlineData("li:has(a)", "selector-too-much", 3)]
    [InlineData("li:nth-child(2)", "selector-too-much", 3)]
    [InlineData("a, ", "selector-cut-off", 4)]
    [InlineData("[a", "selector-cut-off", 1)]
    [InlineData("a{}", "selector-sign", 2)]
    [InlineData("..x", "selector-cut-off", 1)]
    public void What_cannot_be_told_as_a_page_streams_by_is_refused_with_its_place(string text, string fault, int column)
    {
        CssSelector.TryParse(text, out var said, out var at).ShouldBeNull();
        (said, at).ShouldBe((fault, column));
    }

    [Property(MaxTest = 2000)]
    public void No_text_breaks_it(string text)
    {
        var read = CssSelector.TryParse(text ?? "", out var fault, out var column);
        (read is not null || (fault.Length > 0 && column >= 1 && column <= (text ?? "").Length + 2)).ShouldBeTrue();
    }
}
