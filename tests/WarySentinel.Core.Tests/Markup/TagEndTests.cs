using System.Text;
using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using Shouldly;
using WarySentinel.Core.Markup;
using Xunit;

namespace WarySentinel.Core.Tests.Markup;

/// <summary>Where a tag ends: the quick look and the reading sign by sign say the same, whatever stands in it.</summary>
public sealed class TagEndTests
{
    private static readonly string[] Pieces =
        [" ", "\t", "=", "\"", "'", ">", "/", "a", "href", "x-y", "?q", "b=c", " = ", "=\"v\"", " n=\"a>b\"", " m='>'", "é", "<", " k= ", "\" \""];

    [Property(MaxTest = 20_000)]
    public Property Both_ways_agree() => Prop.ForAll(Gen.Elements(Pieces).ListOf().ToArbitrary(), pieces =>
    {
        var tag = Encoding.UTF8.GetBytes("<a" + string.Concat(pieces));
        var reader = new TagReader(tag, 2);
        while (reader.Next(out _, out _))
        {
        }

        return TagReader.EndOf(tag, 2) == reader.End;
    });

    [Theory]
    [InlineData("<a x= y=\"z>w\">", 11)]
    [InlineData("<a x=\"z>w\" y='>'>", 17)]
    [InlineData("<a href=q=\"z>w\">", 13)]
    [InlineData("<a title=it's>", 14)]
    [InlineData("<a b=\"c", -1)]
    public void Examples(string tag, int end) => TagReader.EndOf(Encoding.UTF8.GetBytes(tag), 2).ShouldBe(end);
}
